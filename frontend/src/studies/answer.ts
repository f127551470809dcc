import type { Diagram, Schemas } from '../api/client'

export type StudyResult = Schemas['StudyResultOut']
export type StudyColumn = Schemas['StudyColumn']

/** Curves of one picture at most; more would be a thicket. */
const MOST = 12
/** The values that an input has, in their order. */
export const valuesOf = (result: StudyResult, input: number) =>
  [...new Set(result.cases.map((one) => one.inputs[input]!))].sort((a, b) => a - b)
/** Whether the cases are all combinations of the values of the inputs. */
export const isGrid = (result: StudyResult) =>
  result.cases.length > 0 &&
  result.inputs.reduce((many, _, k) => many * valuesOf(result, k).length, 1) === result.cases.length

export const axis = (column: StudyColumn) => ({ title: column.name, kind: column.kind ?? 'number', log: false })

/** Pictures of an output: of a grid one over the last input, with a curve for every value of the others; else its points over each input. */
export function diagramsOf(
  result: StudyResult,
  output: number,
  told: (value: number, column: StudyColumn) => string,
): Diagram[] {
  const y = result.outputs[output]
  if (!y) return []
  if (isGrid(result)) return result.inputs.length ? [curvesOf(result, output, told)] : []
  return result.inputs.map((x, k) => {
    const points = result.cases.flatMap((one) => {
      const value = one.outputs[output]
      return value == null ? [] : [[one.inputs[k]!, value]]
    })
    const curves = [{ name: y.name, role: 'points', points, temperatures: [] }]
    return { title: `${y.name} over ${x.name}`, axes: [axis(x), axis(y)], curves, marks: [], notes: [] }
  })
}
function curvesOf(result: StudyResult, output: number, told: (value: number, column: StudyColumn) => string): Diagram {
  const along = result.inputs.length - 1
  const [x, y] = [result.inputs[along]!, result.outputs[output]!]
  const curves = new Map<string, (number[] | null)[]>()
  // A list may have been typed in any order.
  for (const one of [...result.cases].sort((a, b) => a.inputs[along]! - b.inputs[along]!)) {
    const name =
      one.inputs
        .slice(0, along)
        .map((value, k) => told(value, result.inputs[k]!))
        .join(', ') || y.name
    const value = one.outputs[output]
    const points = curves.get(name) ?? []
    points.push(value == null ? null : [one.inputs[along]!, value])
    curves.set(name, points)
  }
  return {
    title: y.name,
    axes: [axis(x), axis(y)],
    curves: [...curves].slice(0, MOST).map(([name, points]) => ({ name, role: 'line', points, temperatures: [] })),
    marks: [],
    notes: curves.size > MOST ? [`The first ${MOST} of ${curves.size} curves are drawn.`] : [],
  }
}
