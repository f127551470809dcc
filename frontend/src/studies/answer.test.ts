import { describe, expect, it } from 'vitest'
import { diagramsOf, type StudyResult } from './answer'

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
    const [drawn] = diagramsOf(grid, 0, told)
    expect(drawn?.curves).toEqual([
      { name: '300 K', role: 'line', points: [[1, 5], null], temperatures: [] },
      {
        name: '310 K',
        role: 'line',
        points: [
          [1, 6],
          [2, 7],
        ],
        temperatures: [],
      },
    ])
    expect(drawn?.axes.map((axis) => axis.kind)).toEqual(['pressure', 'power'])
  })
  it('shows what is no grid as points over each input', () => {
    const samples = { ...grid, cases: [one(0, [300, 1], [5]), one(1, [301, 2], [6]), one(2, [302, 2], [null])] }
    const found = diagramsOf(samples, 0, told)
    expect(found.map((d) => [d.title, d.curves[0]?.role, d.curves[0]?.points])).toEqual([
      [
        'duty over T',
        'points',
        [
          [300, 5],
          [301, 6],
        ],
      ],
      [
        'duty over P',
        'points',
        [
          [1, 5],
          [2, 6],
        ],
      ],
    ])
  })
  it('runs along an input whatever the order in which its values were typed', () => {
    const listed = { ...grid, inputs: [column('T', 'temperature')], cases: [one(0, [310], [6]), one(1, [300], [5])] }
    expect(diagramsOf(listed, 0, told)[0]?.curves[0]?.points).toEqual([
      [300, 5],
      [310, 6],
    ])
  })
  it('is none without an input', () => {
    expect(diagramsOf({ ...grid, inputs: [], cases: [] }, 0, told)).toEqual([])
  })
})
