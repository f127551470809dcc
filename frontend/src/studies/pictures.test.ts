import { describe, expect, it } from 'vitest'
import type { StudyResult } from './answer'
import { aroundOf, frontOf, histogramOf, pathOf } from './pictures'

const column = (name: string) => ({ name, of: name, kind: null, si: '' })
const one = (number: number, input: number, ...outputs: number[]) => ({
  number,
  inputs: [input],
  outputs,
  problems: outputs.map(() => ''),
  faults: [],
})
const result = {
  name: 'A',
  inputs: [column('T')],
  outputs: [column('cost'), column('loss')],
  cases: [one(0, 1, 9, 1), one(1, 3, 4, 6), one(2, 2, 5, 3), one(3, 1.5, 6, 2)],
  optimum: {
    senses: ['least', 'least'],
    limits: [],
    start: 0,
    best: 2,
    path: [0, 1, 2],
    around: [[3, 1]],
    others: [],
    front: [2, 3],
    binding: [],
    method: '',
    calculations: 4,
  },
} satisfies StudyResult

describe('pictures of a search for the best', () => {
  it('show its path, and apart what misses a limit', () => {
    const drawn = pathOf(result, (number) => number === 1)
    expect(drawn.curves.map((c) => c.points)).toEqual([
      [
        [0, 9],
        [1, 4],
        [2, 5],
      ],
      [[1, 4]],
    ])
    expect(pathOf(result, () => false).curves).toHaveLength(1)
  })
  it('show the objective beside the best point in the order of the input', () => {
    const [drawn] = aroundOf(result, () => false)
    expect(drawn!.curves[0]!.points).toEqual([
      [1.5, 6],
      [2, 5],
      [3, 4],
    ])
    expect(drawn!.marks[0]!.place).toEqual([2, 5])
    expect(aroundOf({ ...result, optimum: { ...result.optimum, best: null } }, () => false)).toEqual([])
  })
  it('show the trade-off of two objectives', () => {
    expect(frontOf(result)!.curves[0]!.points).toEqual([
      [5, 3],
      [6, 2],
    ])
    expect(frontOf({ ...result, optimum: { ...result.optimum, front: [] } })).toBeNull()
  })
})

describe('the distribution of a result', () => {
  it('is drawn as bars', () => {
    const spread = {
      count: 3,
      mean: 1,
      deviation: 1,
      quantiles: [],
      edges: [0, 1, 2],
      counts: [1, 2],
      ranks: [],
      noise: 1,
    }
    expect(histogramOf({ ...result, spread: [spread, null] }, 0)!.curves[0]!.points).toEqual([
      [0, 0],
      [0, 1],
      [1, 1],
      [1, 2],
      [2, 2],
      [2, 0],
    ])
    expect(histogramOf({ ...result, spread: [spread, null] }, 1)).toBeNull()
  })
})
