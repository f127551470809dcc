import { describe, expect, it } from 'vitest'
import type { StudyResult } from './answer'
import { contoursOf, gridOf, levels } from './contours'

const column = (name: string) => ({ name, of: name, kind: null, si: '' })
/** A grid over 0..20 by 100..120, with what a function gives. */
function study(f: (x: number, y: number) => number | null, n = 21): StudyResult {
  const cases = Array.from({ length: n * n }, (_, k) => {
    const [x, y] = [Math.floor(k / n), 100 + (k % n)]
    return { number: k, inputs: [x, y], outputs: [f(x, y)], problems: [''], faults: [] }
  })
  return { name: 'A', inputs: [column('x'), column('y')], outputs: [column('z')], cases }
}
const drawn = (f: (x: number, y: number) => number | null) => contoursOf(study(f), 0, (v) => v, String)!

describe('lines of equal value', () => {
  it('are where a function has that value', () => {
    const found = drawn((x, y) => 3 * x + (y - 100))
    expect(found.curves.map((c) => c.name)).toEqual(['10', '20', '30', '40', '50', '60', '70'])
    for (const curve of found.curves)
      for (const point of curve.points.filter((p) => p !== null))
        expect(3 * point![0]! + point![1]! - 100).toBeCloseTo(Number(curve.name), 6)
  })
  it('are circles round a hill, with its name on them', () => {
    const found = drawn((x, y) => -((x - 10) ** 2) - (y - 110) ** 2)
    const ring = found.curves.find((c) => c.name === '-50')!
    for (const point of ring.points.filter((p) => p !== null))
      expect(Math.hypot(point![0]! - 10, point![1]! - 110)).toBeCloseTo(Math.sqrt(50), 0)
    expect(found.marks.map((m) => m.name)).toContain('-50')
  })
  it('leave out where cases failed, and show those', () => {
    const found = drawn((x, y) => (x > 12 && y > 110 ? null : x))
    const lines = found.curves.filter((c) => c.name !== 'no answer')
    for (const curve of lines)
      for (const point of curve.points.filter((p) => p !== null))
        expect(point![0]! > 12 && point![1]! > 110).toBe(false)
    expect(found.curves.find((c) => c.name === 'no answer')?.points.length).toBe(80)
  })
  it('need a whole grid of two inputs', () => {
    const one = study((x) => x)
    expect(gridOf({ ...one, cases: one.cases.slice(1) })).toBeNull()
    expect(gridOf({ ...one, inputs: one.inputs.slice(1) })).toBeNull()
  })
  it('do not hang on the order of the cases', () => {
    const plain = study((x, y) => 3 * x + (y - 100))
    const turned = { ...plain, cases: [...plain.cases].reverse() }
    expect(contoursOf(turned, 0, (v) => v, String)).toEqual(contoursOf(plain, 0, (v) => v, String))
  })
  it('have round numbers', () => {
    expect(levels(0.13, 0.91, 8)).toEqual([0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9])
    expect(levels(3, 3, 8)).toEqual([])
  })
})
