import { describe, expect, it } from 'vitest'
import { diagramOf, type StudyResult } from './answer'

const column = (name: string, kind: string | null) => ({ name, of: name, kind, si: '' })
const one = (number: number, inputs: number[], outputs: (number | null)[]) => ({
  number,
  inputs,
  outputs,
  problems: outputs.map(() => ''),
  faults: [],
})
const told = (value: number) => `${value} K`

describe('an answer as a picture', () => {
  const grid: StudyResult = {
    name: 'A',
    inputs: [column('T', 'temperature'), column('P', 'pressure')],
    outputs: [column('duty', 'power')],
    cases: [one(0, [300, 1], [5]), one(1, [300, 2], [null]), one(2, [310, 1], [6]), one(3, [310, 2], [7])],
  }
  it('has a curve for every value of the first inputs, with a gap where a case failed', () => {
    const drawn = diagramOf(grid, 0, told)
    expect(drawn?.curves).toEqual([
      { name: '300 K', role: 'line', points: [[1, 5], null] },
      {
        name: '310 K',
        role: 'line',
        points: [
          [1, 6],
          [2, 7],
        ],
      },
    ])
    expect(drawn?.axes.map((axis) => axis.kind)).toEqual(['pressure', 'power'])
  })
  it('shows samples as points', () => {
    const samples = { ...grid, cases: [one(0, [300, 1], [5]), one(1, [301, 2], [6])] }
    expect(diagramOf(samples, 0, told)?.curves).toEqual([
      {
        name: 'duty',
        role: 'points',
        points: [
          [1, 5],
          [2, 6],
        ],
      },
    ])
  })
  it('is none without an input', () => {
    expect(diagramOf({ ...grid, inputs: [] }, 0, told)).toBeNull()
  })
})
