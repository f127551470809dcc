import type { Diagram, Schemas } from '../api/client'

export type StudyResult = Schemas['StudyResultOut']
export type StudyColumn = Schemas['StudyColumn']

/** Curves of one picture at most; more would be a thicket. */
const MOST = 12
/** Kind of quantity of a column; a plain number where none fits. */
const kindOf = (column: StudyColumn) => column.kind ?? 'number'

/** An output over the input that is varied, a curve for every value of the others. `told` shows a value of a column. */
export function diagramOf(
  result: StudyResult,
  output: number,
  told: (value: number, column: StudyColumn) => string,
): Diagram | null {
  const along = result.inputs.length - 1
  const [x, y] = [result.inputs[along], result.outputs[output]]
  if (!x || !y) return null
  const curves = new Map<string, (number[] | null)[]>()
  for (const one of result.cases) {
    const others = one.inputs.slice(0, along).map((value, k) => `${told(value, result.inputs[k]!)}`)
    const name = others.length ? others.join(', ') : y.name
    const value = one.outputs[output]
    const points = curves.get(name) ?? []
    points.push(value == null ? null : [one.inputs[along]!, value])
    curves.set(name, points)
  }
  // One case a curve is no curve: samples, and inputs that are varied one at a time, are points.
  const lines = [...curves].every(([, points]) => points.length > 1)
  const drawn = lines ? [...curves].slice(0, MOST) : [[y.name, [...curves.values()].flat()] as const]
  return {
    title: y.name,
    axes: [
      { title: x.name, kind: kindOf(x), log: false },
      { title: y.name, kind: kindOf(y), log: false },
    ],
    curves: drawn.map(([name, points]) => ({ name, role: lines ? 'line' : 'points', points: [...points] })),
    marks: [],
    notes: curves.size > MOST && lines ? [`The first ${MOST} of ${curves.size} curves are drawn.`] : [],
  }
}
