import type { Diagram, Profile, ProfileColumn, Result } from '../../api/client'
import { fullTitle } from '../../unit/panels'

type Value = NonNullable<Result['units'][string]['values']>[number]
export interface Row {
  id: string
  title: string
  kind: string
  /** SI, in the order of the units; null where a unit has no such value. */
  cells: (number | null)[]
}

/** What reactors are compared by first; all else follows as it is told. */
const FIRST = ['conversion', 'conversion_of', 'selectivity', 'yield']

/** What units have calculated, a row for each value that one of them has at least. */
export function sideBySide(units: { values: Value[] }[]): Row[] {
  const rows = new Map<string, Row>()
  const idOf = (value: Value) => `${value.key}|${value.component ?? ''}`
  units.forEach((unit, place) => {
    for (const value of unit.values) {
      const id = idOf(value)
      const title = value.component ? `${value.title}, ${value.component}` : value.title
      const row = rows.get(id) ?? { id, title, kind: value.kind, cells: units.map(() => null) }
      row.cells[place] = value.value
      rows.set(id, row)
    }
  })
  const rank = (row: Row) => (FIRST.indexOf(row.id.split('|')[0]!) + FIRST.length + 1) % (FIRST.length + 1)
  return [...rows.values()].sort((a, b) => rank(a) - rank(b))
}

const idOf = (column: ProfileColumn) => `${column.key}|${column.component ?? ''}`

/** What can be drawn of several profiles in one picture: the columns that one of them has at least. */
export function choicesOf(profiles: Profile[]): { id: string; title: string }[] {
  const found = new Map(profiles.flatMap((p) => p.columns.map((c) => [idOf(c), fullTitle(c)] as const)))
  return [...found].map(([id, title]) => ({ id, title }))
}

/** One column of several profiles over the share of the way, whether that is a length, a volume or a time. */
export function overlaid(profiles: { tag: string; profile: Profile }[], id: string): Diagram | null {
  const having = profiles.flatMap(({ tag, profile }) => {
    const column = profile.columns.find((c) => idOf(c) === id)
    const end = profile.along.values.at(-1)
    return column && end ? [{ tag, column, end, along: profile.along.values }] : []
  })
  const first = having[0]?.column
  if (!first) return null
  return {
    title: fullTitle(first),
    axes: [
      { title: 'share of volume or time', kind: 'number', log: false },
      { title: fullTitle(first), kind: first.kind, log: false },
    ],
    curves: having.map(({ tag, column, end, along }) => ({
      name: tag,
      role: 'line',
      points: along.map((place, n) =>
        place == null || column.values[n] == null ? null : [place / end, column.values[n]!],
      ),
    })),
    marks: [],
    notes: [],
  }
}
