import type { Diagram, Schemas } from '../api/client'
import { axis, type StudyResult } from './answer'

export type Optimum = Schemas['Optimum']
type Points = (number[] | null)[]
const curve = (name: string, role: string, points: Points) => ({ name, role, points, temperatures: [] })
const steps = { title: 'step of the search', kind: 'number', log: false }

/** The objective over the steps of a search, with those that miss a limit apart. */
export function pathOf(result: StudyResult, missed: (number: number) => boolean): Diagram {
  const [objective, optimum] = [result.outputs[0]!, result.optimum!]
  const points = optimum.path.flatMap((number, step) => {
    const value = result.cases[number]!.outputs[0]
    return value == null ? [] : [{ number, at: [step, value] }]
  })
  const outside = points.filter((p) => missed(p.number)).map((p) => p.at)
  return {
    title: `Path of the search`,
    axes: [steps, axis(objective)],
    curves: [
      curve(
        objective.name,
        'line',
        points.map((p) => p.at),
      ),
      ...(outside.length ? [curve('misses a limit', 'points', outside)] : []),
    ],
    marks: [],
    notes: [],
  }
}
/** The objective beside the best point along each input, that alone moved; points that miss a limit apart. */
export function aroundOf(result: StudyResult, missed: (number: number) => boolean): Diagram[] {
  const optimum = result.optimum!
  const { best } = optimum
  if (best == null) return []
  return result.inputs.flatMap((input, k) => {
    const numbers = [...(optimum.around[k] ?? []), best]
    const points = numbers
      .map((number) => ({ number, at: [result.cases[number]!.inputs[k]!, result.cases[number]!.outputs[0]!] }))
      .filter((p) => p.at[1] != null)
      .sort((a, b) => a.at[0]! - b.at[0]!)
    if (points.length < 2) return []
    const outside = points.filter((p) => missed(p.number)).map((p) => p.at)
    const there = result.cases[best]!
    const curves = [
      curve(
        result.outputs[0]!.name,
        'line',
        points.map((p) => p.at),
      ),
    ]
    if (outside.length) curves.push(curve('misses a limit', 'points', outside))
    const mark = { name: 'best', place: [there.inputs[k]!, there.outputs[0]!], text: '', temperature: null }
    return [{ title: input.name, axes: [axis(input), axis(result.outputs[0]!)], curves, marks: [mark], notes: [] }]
  })
}
/** The trade-off between two objectives. */
export function frontOf(result: StudyResult): Diagram | null {
  const numbers = result.optimum?.front ?? []
  if (numbers.length < 2) return null
  const points = numbers.map((number) => result.cases[number]!.outputs.slice(0, 2) as number[])
  const [one, other] = [result.outputs[0]!, result.outputs[1]!]
  const curves = [curve('trade-off', 'line', points), curve('points', 'points', points)]
  return { title: `${other.name} over ${one.name}`, axes: [axis(one), axis(other)], curves, marks: [], notes: [] }
}
/** How often an output had which values, as bars. */
export function histogramOf(result: StudyResult, output: number): Diagram | null {
  const spread = result.spread?.[output]
  if (!spread) return null
  const points: Points = spread.counts.flatMap((count, k) => [
    [spread.edges[k]!, count],
    [spread.edges[k + 1]!, count],
  ])
  const bars = [[spread.edges[0]!, 0], ...points, [spread.edges.at(-1)!, 0]]
  const column = result.outputs[output]!
  const axes = [axis(column), { title: 'cases', kind: 'number', log: false }]
  return { title: column.name, axes, curves: [curve('cases', 'line', bars)], marks: [], notes: [] }
}
