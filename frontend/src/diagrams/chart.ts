import { LineChart, ScatterChart } from 'echarts/charts'
import {
  GridComponent,
  LegendComponent,
  MarkPointComponent,
  TitleComponent,
  TooltipComponent,
} from 'echarts/components'
import * as echarts from 'echarts/core'
import { CanvasRenderer, SVGRenderer } from 'echarts/renderers'
import type { Diagram } from '../api/client'
import { numberText, unitText } from '../quantities/format'

echarts.use([
  LineChart,
  ScatterChart,
  GridComponent,
  LegendComponent,
  MarkPointComponent,
  TitleComponent,
  TooltipComponent,
  CanvasRenderer,
  SVGRenderer,
])
export { echarts }

/** How SI numbers of an axis are shown. */
export interface Scale {
  title: string
  unit: string
  log: boolean
  shown: (si: number) => number
}
/** A place that was read off and stays: in the diagram's own numbers; in a triangle the temperature may follow. */
export type Place = number[]
export type Form = 'triangle' | 'right angle'
/** What beside the diagrams themselves decides a picture. */
export interface Look {
  scales: Scale[]
  /** How temperatures are shown that no axis shows. */
  hot: Scale
  form: Form
  pinned: Place[]
  /** Names of the curves that are hidden. */
  hidden: string[]
  measured: { name: string; points: Place[] }[]
  /** Width and height of the picture. */
  size: [number, number]
}

const HEIGHT = Math.sqrt(3) / 2
/** From fractions of three components to the paper: corners lower left, lower right and top, or a right angle at the first. */
export function onPaper(place: Place, form: Form): [number, number] {
  const [, b = 0, c = 0] = place
  return form === 'triangle' ? [b + c / 2, c * HEIGHT] : [b, c]
}
/** And back. */
export function fromPaper(x: number, y: number, form: Form): Place {
  const c = form === 'triangle' ? y / HEIGHT : y
  const b = form === 'triangle' ? x - c / 2 : x
  return [1 - b - c, b, c]
}

/** A colour of the look, as it is now. */
export const variable = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()

/** The points of a curve as places, with their temperatures where no axis shows them. */
export function placesOf(curve: Diagram['curves'][number]): (Place | null)[] {
  const hot = curve.temperatures ?? []
  return curve.points.map((p, k) => (p && hot[k] != null ? [...p, hot[k]] : p))
}
/** What is said of a place: every coordinate with its unit. */
export function placeText(place: Place, scales: Scale[], hot?: Scale): string {
  if (scales.length === 3)
    return [
      ...scales.map((s, k) => `${s.title} ${numberText(place[k] ?? 0, 4)}`),
      ...(hot && place[3] !== undefined
        ? [`boils at ${numberText(hot.shown(place[3]), 5)} ${unitText(hot.unit)}`]
        : []),
    ].join(', ')
  return scales
    .map((s, k) => `${s.title} ${numberText(s.shown(place[k] ?? 0), 5)} ${unitText(s.unit)}`.trim())
    .join(', ')
}

function axis(scale: Scale, ink: string, rule: string, vertical: boolean) {
  return {
    type: scale.log ? 'log' : 'value',
    name: scale.unit ? `${scale.title}, ${unitText(scale.unit)}` : scale.title,
    nameLocation: 'middle',
    nameGap: vertical ? 52 : 30,
    nameTextStyle: { color: ink, fontWeight: 600 },
    scale: true,
    axisLine: { show: true, onZero: false, lineStyle: { color: ink } },
    axisLabel: { color: ink, formatter: (v: number) => numberText(v, 4) },
    splitLine: { lineStyle: { color: rule } },
    ...(scale.title.includes('fraction') || scale.title.includes(' in the ') ? { min: 0, max: 1, scale: false } : {}),
  }
}

/** What a curve is called in the legend; of several diagrams over each other with the diagram that it is of. */
export function curveName(diagrams: Diagram[], diagram: Diagram, curve: Diagram['curves'][number]): string {
  return diagrams.length > 1 ? `${curve.name}, ${diagram.title.split(', ').at(-1)}` : curve.name
}

/** Everything that is drawn, as the chart library wants it. */
export function option(diagrams: Diagram[], look: Look): echarts.EChartsCoreOption {
  const ink = variable('--ink')
  const quiet = variable('--ink-2')
  const rule = variable('--rule-2')
  const act = variable('--act')
  const warn = variable('--warn')
  const colours = [ink, act, warn, variable('--assumed'), quiet]
  const ternary = look.scales.length === 3
  const place = (p: Place): [number, number] =>
    ternary ? onPaper(p, look.form) : [look.scales[0]!.shown(p[0] ?? 0), look.scales[1]!.shown(p[1] ?? 0)]
  const names = new Map<string, string>()
  const series: Record<string, unknown>[] = []
  if (ternary) series.push(...frame(look, quiet, rule, ink))
  diagrams.forEach((diagram, n) => {
    for (const curve of diagram.curves) {
      const name = curveName(diagrams, diagram, curve)
      // What carries its name needs none in the legend.
      if (!names.has(name) && curve.role !== 'labelled') names.set(name, colours[names.size % colours.length]!)
      const colour = ternary ? (curve.name === 'boundary' ? warn : n ? act : ink) : names.get(name)!
      if (curve.role === 'points') {
        const data = curve.points.flatMap((p) => (p ? [place(p)] : []))
        series.push(points(name, data, names.get(name)!, 'circle', 7))
        continue
      }
      if (curve.role === 'path') {
        const turn = diagram.curves.filter((c) => c.role === 'path').indexOf(curve)
        series.push({
          type: 'line',
          name,
          data: placesOf(curve).map((p) => (p ? [...place(p), ''] : [null, null])),
          symbol: turn ? 'emptyCircle' : 'circle',
          symbolSize: 6,
          lineStyle: { color: act, width: 1.2, type: turn ? 'dashed' : 'solid' },
          itemStyle: { color: act },
          animation: false,
          z: 4,
        })
        continue
      }
      if (curve.role === 'labelled') {
        series.push(labelled(name, placesOf(curve), diagram, place, ink))
        continue
      }
      const strong = ['boundary', 'two liquids', 'through a point'].includes(curve.name)
      series.push({
        type: 'line',
        name,
        data: placesOf(curve).map((p) => (p ? [...place(p), '', ...p.slice(3)] : [null, null])),
        showSymbol: false,
        symbolSize: 5,
        lineStyle: {
          color: colour,
          width: ternary ? (strong ? 2 : 0.8) : 1.8,
          type: curve.role === 'dashed' || n ? 'dashed' : 'solid',
        },
        itemStyle: { color: colour },
        emphasis: { disabled: true },
        animation: false,
      })
    }
    const named = new Set(diagram.curves.filter((c) => c.role === 'labelled').map((c) => c.name))
    const marks = diagram.marks.filter((m) => !named.has(m.name))
    if (marks.length)
      series.push(
        points(
          'marks',
          marks.map((m) => [...place(m.place), m.name]),
          ink,
          'circle',
          9,
        ),
      )
  })
  for (const set of look.measured) series.push(points(set.name, set.points.map(place), warn, 'diamond', 9))
  if (look.pinned.length) series.push(points('read', look.pinned.map(place), act, 'pin', 20))
  const legend = [...new Set([...names.keys(), ...look.measured.map((s) => s.name)])]
  const hidden = { show: false, min: 0, max: 1 }
  return {
    animation: false,
    textStyle: { fontFamily: "'IBM Plex Sans', sans-serif", fontSize: 12, color: ink },
    grid: ternary ? square(look) : { left: 76, right: 24, top: 44, bottom: 52 },
    legend: {
      data: legend,
      selected: Object.fromEntries(look.hidden.map((name) => [name, false])),
      top: 6,
      textStyle: { color: ink },
      inactiveColor: quiet,
      type: 'scroll',
    },
    tooltip: {
      trigger: 'item',
      renderMode: 'richText',
      formatter: (item: { seriesName: string; value: (number | string)[] }) => told(item, look),
    },
    xAxis: ternary ? { type: 'value', ...hidden } : axis(look.scales[0]!, ink, rule, false),
    yAxis: ternary
      ? { type: 'value', ...hidden, max: look.form === 'triangle' ? HEIGHT : 1 }
      : axis(look.scales[1]!, ink, rule, true),
    series,
  }
}

/** A place for the triangle in which its sides keep their proportions. */
function square(look: Look) {
  const tall = look.form === 'triangle' ? HEIGHT : 1
  const side = Math.max(100, Math.min(look.size[0] - 120, (look.size[1] - 84) / tall))
  return { left: (look.size[0] - side) / 2, top: 46, width: side, height: side * tall }
}

function told(item: { seriesName: string; value: (number | string)[] }, look: Look): string {
  const [x, y, name, t] = item.value
  const where =
    look.scales.length === 3
      ? placeText(
          [...fromPaper(Number(x), Number(y), look.form), ...(t === undefined ? [] : [Number(t)])],
          look.scales,
          look.hot,
        )
      : look.scales
          .map((s, k) => `${s.title} ${numberText(Number(item.value[k]), 5)} ${unitText(s.unit)}`.trim())
          .join('\n')
  return `${name || item.seriesName}\n${where}`
}

function points(name: string, data: unknown[], colour: string, symbol: string, size: number) {
  return {
    type: 'scatter',
    name,
    data,
    symbol,
    symbolSize: size,
    itemStyle: { color: colour },
    animation: false,
    z: 5,
  }
}

/** A line that carries its name where the mark of that name lies. */
function labelled(
  name: string,
  places: (Place | null)[],
  diagram: Diagram,
  place: (p: Place) => [number, number],
  ink: string,
) {
  const label = { show: true, formatter: name, color: ink, backgroundColor: variable('--paper'), padding: [1, 3] }
  const at = diagram.marks.filter((m) => m.name === name).map((m) => ({ coord: place(m.place) }))
  return {
    type: 'line',
    name,
    data: places.map((p) => (p ? [...place(p), ''] : [null, null])),
    showSymbol: false,
    lineStyle: { color: ink, width: 1.2 },
    itemStyle: { color: ink },
    emphasis: { disabled: true },
    markPoint: { symbol: 'circle', symbolSize: 1, silent: true, animation: false, label, data: at },
    animation: false,
  }
}

/** The sides of the composition triangle, its lines at every fifth, and the names at the corners. */
function frame(look: Look, quiet: string, rule: string, ink: string) {
  const corners: Place[] = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ]
  const at = (p: Place) => onPaper(p, look.form)
  const lines = [0.2, 0.4, 0.6, 0.8].flatMap((s) =>
    [0, 1, 2].map((k) => {
      const ends = [1, 2].map((turn) => {
        const p = [0, 0, 0]
        p[k] = s
        p[(k + turn) % 3] = 1 - s
        return at(p)
      })
      return thin(ends, rule, 1)
    }),
  )
  const side = thin([...corners, corners[0]!].map(at), ink, 1.4)
  const labels = {
    type: 'scatter',
    name: 'corners',
    silent: true,
    symbolSize: 0.1,
    data: corners.map((p, k) => ({
      value: at(p),
      label: {
        show: true,
        formatter: look.scales[k]!.title,
        position: k === 2 ? 'right' : 'bottom',
        distance: 10,
        color: quiet,
        fontWeight: 600,
      },
    })),
    animation: false,
  }
  return [...lines, side, labels]
}

function thin(data: unknown[], color: string, width: number) {
  return {
    type: 'line',
    name: '',
    data,
    showSymbol: false,
    silent: true,
    lineStyle: { color, width },
    animation: false,
  }
}

/** All numbers in the units shown, for a table or a file. */
export function rows(diagrams: Diagram[], scales: Scale[], hot: Scale): (string | number)[][] {
  const warm = diagrams.some((d) => d.curves.some((c) => c.temperatures?.length))
  const shown =
    scales.length === 3 ? [...scales.map((s) => ({ ...s, unit: '', shown: (v: number) => v })), hot] : scales
  const columns = warm ? shown : shown.slice(0, scales.length)
  const head = ['', ...columns.map((s) => (s.unit ? `${s.title}, ${unitText(s.unit)}` : s.title))]
  const line = (name: string, p: Place) => [name, ...p.map((v, k) => columns[k]!.shown(v))]
  const body = diagrams.flatMap((d) => [
    ...d.curves.flatMap((c) => placesOf(c).flatMap((p) => (p ? [line(c.name, p)] : []))),
    ...d.marks.map((m) => line(m.name, warm && m.temperature ? [...m.place, m.temperature] : m.place)),
  ])
  return [head, ...body]
}
