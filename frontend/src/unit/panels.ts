import type { Diagram, Profile, ProfileColumn } from '../api/client'
import { numberText, unitText } from '../quantities/format'

/** What shows SI numbers: in the units of the plant's set. */
export interface Shower {
  displayUnit: (kind: string) => string
  shown: (si: number, kind: string) => number
  siUnit: (kind: string) => string
}
export interface Panel {
  title: string
  unit: string
  columns: ProfileColumn[]
}
/** The frame of a section in pixels: where its panels and the apparatus lie. */
export interface Frame {
  width: number
  height: number
  /** Room before the panels along the axis that runs through the apparatus, and beside it. */
  before: number
  after: number
  beside: number
}

const DASHES = ['solid', 'dashed', 'dotted', [8, 3, 2, 3], [12, 4]] as const
const MANY = 10

/** Columns that belong into one picture: those of a group, and the same of several components. */
export function panelsOf(profile: Profile, show: Shower): Panel[] {
  const groups = new Map<string, ProfileColumn[]>()
  for (const column of profile.columns) {
    const name = column.group || column.component ? `${column.group || column.key} ${column.kind}` : column.key
    groups.set(name, [...(groups.get(name) ?? []), column])
  }
  return [...groups.values()].map((columns) => ({
    title: columns[0]!.group || columns[0]!.title,
    unit: show.displayUnit(columns[0]!.kind),
    columns: largest(columns),
  }))
}
/** The columns of many components that reach highest; the rest stands among the numbers. */
function largest(columns: ProfileColumn[]): ProfileColumn[] {
  if (columns.length <= MANY) return columns
  const top = (c: ProfileColumn) => Math.max(...c.values.map((v) => v ?? 0))
  const chosen = new Set([...columns].sort((a, b) => top(b) - top(a)).slice(0, MANY))
  return columns.filter((c) => chosen.has(c))
}
/** A column named alone, without the picture that it belongs to. */
export function fullTitle(column: ProfileColumn): string {
  const title = column.group ? `${column.group}, ${column.title.toLowerCase()}` : column.title
  return column.component ? `${title}, ${column.component}` : title
}
export const nameOf = (column: ProfileColumn) => column.component || column.title
export const heading = (title: string, unit: string) => (unit ? `${title}, ${unitText(unit)}` : title)

/** A panel as a diagram of its own, the way the inspector shows it. */
export function diagramOf(profile: Profile, panel: Panel): Diagram {
  const points = (c: ProfileColumn) =>
    profile.along.values.map((place, n) => (c.values[n] == null || place == null ? null : [place, c.values[n]!]))
  const columns = new Set(panel.columns.map((c) => c.key))
  const kind = panel.columns[0]!.kind
  return {
    title: profile.title,
    axes: [
      { title: profile.along.title, kind: profile.along.kind, log: false },
      { title: panel.title, kind, log: false },
    ],
    curves: panel.columns.map((c) => ({ name: nameOf(c), role: 'line', points: points(c) })),
    marks: profile
      .marks!.filter((m) => columns.has(m.column))
      .map((m) => ({ name: m.name, place: [m.place, m.value], text: '', temperature: null })),
    notes: [],
  }
}

/** A place along a profile as a formula writes it, behind the key of a column: `[length 12.5 m]`. */
export function placed(profile: Profile, column: ProfileColumn, si: number, unitOf: (kind: string) => string): string {
  const number = profile.steps ? String(si) : String(Number(si.toPrecision(10)))
  const place = `${profile.along.key} ${number} ${profile.steps ? '' : unitOf(profile.along.kind)}`.trim()
  return `${column.key}[${column.component ? `${column.component}, ` : ''}${place}]`
}

/** The first of several panels of components, where all show the same ones, so that one legend does for them. */
export function sharedOf(panels: Panel[]): Panel | undefined {
  const several = panels.filter((p) => p.columns.length > 1 && p.columns.every((c) => c.component))
  const names = (p: Panel) => p.columns.map(nameOf).join('|')
  return several.length > 1 && several.every((p) => names(p) === names(several[0]!)) ? several[0] : undefined
}

/** Everything that is drawn, as the chart library wants it; ``standing`` turns the axis through the apparatus downward. */
export function sectionOption(profile: Profile, panels: Panel[], show: Shower, frame: Frame, standing: boolean) {
  const variable = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()
  const [ink, quiet, rule, act, warn] = ['--ink', '--ink-2', '--rule-2', '--act', '--warn'].map(variable)
  const colours = [ink, ink, act, warn, quiet]
  const room = (standing ? frame.width : frame.height) - frame.beside
  const size = room / Math.max(1, panels.length)
  const places = profile.along.values.map((v) => show.shown(v ?? 0, profile.along.kind))
  const along = {
    type: 'value',
    min: places[0],
    max: places.at(-1),
    inverse: standing,
    axisLine: { onZero: false, lineStyle: { color: quiet } },
    splitLine: { lineStyle: { color: rule } },
  }
  const name = heading(profile.along.title, show.displayUnit(profile.along.kind))
  const grids: object[] = []
  const across: object[] = []
  const through: object[] = []
  const legends: object[] = []
  const titles: object[] = []
  const series: object[] = []
  const shared = standing ? sharedOf(panels) : undefined
  const legend = {
    formatter: (text: string) => text.slice(text.indexOf(' ') + 1),
    itemHeight: 8,
    itemStyle: { opacity: 0 },
    textStyle: { color: ink, fontSize: 11 },
    inactiveColor: quiet,
  }
  if (shared)
    legends.push({
      ...legend,
      data: shared.columns.map((c) => `${panels.indexOf(shared)} ${nameOf(c)}`),
      type: 'scroll',
      selectedMode: false,
      top: 0,
      left: frame.beside - 5,
      width: frame.width - frame.beside - 20,
      itemWidth: 30,
    })
  panels.forEach((panel, n) => {
    const start = frame.beside + n * size
    const last = n === panels.length - 1
    grids.push(
      standing
        ? { left: start, width: size - 26, top: frame.before, height: frame.height - frame.before - frame.after }
        : { left: frame.before, width: frame.width - frame.before - frame.after, top: start + 24, height: size - 40 },
    )
    const [left, top] = standing ? [start - 5, frame.before - 44] : [frame.before - 5, start]
    titles.push({
      text: heading(panel.title, panel.unit),
      left,
      top,
      textStyle: { fontSize: 12, fontWeight: 600, color: ink },
    })
    if (panel.columns.length > 1 && !(shared && panel.columns.every((c) => c.component)))
      legends.push({
        ...legend,
        data: panel.columns.map((c) => `${n} ${nameOf(c)}`),
        type: panel.columns.length > 2 ? 'scroll' : 'plain',
        padding: 5,
        itemGap: 6,
        top: standing ? top + 14 : top - 5,
        ...(standing
          ? { left: left, width: size - 30 }
          : {
              right: frame.after,
              width: frame.width - frame.before - frame.after - 8 * heading(panel.title, panel.unit).length - 12,
            }),
        itemWidth: panel.columns.length > 2 ? 26 : 16,
      })
    const values = {
      type: 'value',
      gridIndex: n,
      scale: true,
      splitNumber: standing || size < 130 ? 3 : 4,
      axisLabel: { color: quiet, fontSize: 11, hideOverlap: true, formatter: (v: number) => numberText(v, 4) },
      axisLine: { show: true, onZero: false, lineStyle: { color: quiet } },
      splitLine: { show: false },
      ...(panel.unit === '' && panel.title.toLowerCase().includes('fraction') ? { min: 0, max: 1 } : {}),
    }
    across.push(values)
    through.push({
      ...along,
      gridIndex: n,
      axisLabel: {
        hideOverlap: true,
        showMaxLabel: false,
        show: standing ? n === 0 : last,
        color: quiet,
        fontSize: 11,
        formatter: (v: number) => numberText(v, 4),
      },
      ...(!standing && last
        ? { name, nameLocation: 'middle', nameGap: 24, nameTextStyle: { color: ink, fontWeight: 600 } }
        : {}),
    })
    const point = (place: number, value: number | null, column: ProfileColumn) => {
      const shown = value === null ? null : show.shown(value, column.kind)
      return standing ? [shown, place] : [place, shown]
    }
    panel.columns.forEach((column, k) => {
      const colour = colours[Math.floor(k / 2) % colours.length]!
      series.push({
        type: 'line',
        name: `${n} ${nameOf(column)}`,
        xAxisIndex: n,
        yAxisIndex: n,
        data: places.map((place, row) => point(place, column.values[row] ?? null, column)),
        symbol: places.length === 1 ? 'circle' : 'none',
        lineStyle: { width: 1.7, color: colour, type: DASHES[k % DASHES.length] },
        itemStyle: { color: colour },
        emphasis: { disabled: true },
        silent: true,
      })
      const marks = column.component ? [] : profile.marks!.filter((m) => m.column === column.key)
      if (marks.length)
        series.push({
          type: 'scatter',
          xAxisIndex: n,
          yAxisIndex: n,
          symbolSize: 8,
          itemStyle: { color: colour, borderColor: variable('--paper') },
          data: marks.map((m) => point(show.shown(m.place, profile.along.kind), m.value, column)),
          silent: true,
        })
    })
  })
  return {
    animation: false,
    textStyle: { fontFamily: "'IBM Plex Sans', sans-serif", fontSize: 12, color: ink },
    title: titles,
    legend: legends,
    grid: grids,
    xAxis: standing ? across : through,
    yAxis: standing ? through : across,
    series,
  }
}
