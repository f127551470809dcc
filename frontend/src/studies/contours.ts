import { contours } from 'd3-contour'
import type { Diagram } from '../api/client'
import { axis, isGrid, valuesOf, type StudyResult } from './answer'

/** Lines of a picture, about; a label stands on a line that is so long at least, in steps of the grid. */
const LINES = 8
const LABELLED = 3

/** Round numbers between two values, about so many. */
export function levels(low: number, high: number, many: number): number[] {
  if (!(high > low)) return []
  const rough = (high - low) / many
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 5, 10].find((nice) => nice * power >= rough * 0.999)! * power
  const found: number[] = []
  for (let k = Math.ceil(low / step); k * step <= high; k++) found.push(Number((k * step).toPrecision(10)))
  return found.filter((level) => level > low && level < high)
}
/** The places of a grid of two inputs, in order; null where the cases are no such grid. */
export function gridOf(result: StudyResult): { x: number[]; y: number[] } | null {
  if (result.inputs.length !== 2 || !isGrid(result)) return null
  const [x, y] = [valuesOf(result, 0), valuesOf(result, 1)]
  return x.length > 2 && y.length > 2 ? { x, y } : null
}

/** Lines of equal value of an output over two inputs. `shown` gives it in the unit it is shown in, `named` a level with that. */
export function contoursOf(
  result: StudyResult,
  output: number,
  shown: (value: number) => number,
  named: (level: number) => string,
): Diagram | null {
  const grid = gridOf(result)
  const column = result.outputs[output]
  if (!grid || !column) return null
  const [nx, ny] = [grid.x.length, grid.y.length]
  const there = new Map(result.cases.map((one) => [`${one.inputs[0]} ${one.inputs[1]}`, one.outputs[output] ?? null]))
  const at = (i: number, j: number) => there.get(`${grid.x[i]} ${grid.y[j]}`) ?? null
  const values = Array.from({ length: nx * ny }, (_, k) => {
    const value = at(k % nx, Math.floor(k / nx))
    return value === null ? NaN : shown(value)
  })
  const known = values.filter((value) => Number.isFinite(value))
  const place = (list: number[], index: number) => {
    const k = Math.min(Math.max(Math.floor(index), 0), list.length - 2)
    return list[k]! + (index - k) * (list[k + 1]! - list[k]!)
  }
  /** Whether a place lies inside the grid and beside values only: borders and failed cases have no lines. */
  const beside = (gx: number, gy: number) =>
    gx >= 0 &&
    gy >= 0 &&
    gx <= nx - 1 &&
    gy <= ny - 1 &&
    [Math.floor(gx), Math.ceil(gx)].every((i) => [Math.floor(gy), Math.ceil(gy)].every((j) => at(i, j) !== null))
  const curves: Diagram['curves'] = []
  const marks: Diagram['marks'] = []
  const draw = contours().size([nx, ny])
  for (const level of levels(Math.min(...known), Math.max(...known), LINES)) {
    const points: (number[] | null)[] = []
    let longest: number[][] = []
    for (const ring of draw.contour(values, level).coordinates.flat()) {
      let run: number[][] = []
      for (const [cx, cy] of [...ring, [-1, -1]] as [number, number][]) {
        const [gx, gy] = [cx - 0.5, cy - 0.5]
        if (beside(gx, gy)) {
          run.push([place(grid.x, gx), place(grid.y, gy)])
          continue
        }
        if (run.length > 1) points.push(...run, null)
        if (run.length > longest.length) longest = run
        run = []
      }
    }
    if (!points.length) continue
    curves.push({ name: named(level), role: 'labelled', points, temperatures: [] })
    if (longest.length >= LABELLED)
      marks.push({ name: named(level), place: longest[Math.floor(longest.length / 2)]!, text: '', temperature: null })
  }
  const failed = result.cases.filter((one) => one.outputs[output] === null).map((one) => [...one.inputs])
  if (failed.length) curves.push({ name: 'no answer', role: 'points', points: failed, temperatures: [] })
  return { title: column.name, axes: result.inputs.map(axis), curves, marks, notes: [] }
}
