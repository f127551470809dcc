import { expect, test } from 'vitest'
import { alike, alikeBy } from './alike'

const before = {
  units: [
    { tag: 'A', x: 1 },
    { tag: 'B', x: 2 },
  ],
  title: 'one',
  shown: { A: ['T'] },
}

test('what has not changed is the very object it was', () => {
  const same = alike(before, structuredClone(before))
  expect(same).toBe(before)
  const moved = structuredClone(before)
  moved.units[1]!.x = 3
  const next = alike(before, moved)
  expect(next).toEqual(moved)
  expect(next.units[0]).toBe(before.units[0])
  expect(next.units[1]).not.toBe(before.units[1])
  expect(next.shown).toBe(before.shown)
})

test('values that are gone, new or of another kind are told apart', () => {
  const gone = { units: before.units, title: 'one' }
  expect(alike(before, gone)).toEqual(gone)
  expect(alike({ a: undefined }, { b: undefined })).toEqual({ b: undefined })
  expect(alike({ a: null }, { a: {} })).toEqual({ a: {} })
  expect(alike([1, 2], { 0: 1, 1: 2 })).toEqual({ 0: 1, 1: 2 })
  expect(alike([1, 2, 3], [1, 2])).toEqual([1, 2])
})

test('parts of a list are found again by name where one before them is taken out', () => {
  const next = alikeBy(before.units, [{ tag: 'B', x: 2 }], (u) => u.tag)
  expect(next).toEqual([{ tag: 'B', x: 2 }])
  expect(next[0]).toBe(before.units[1])
  expect(alikeBy(before.units, structuredClone(before.units), (u) => u.tag)).toBe(before.units)
  expect(alikeBy(undefined, before.units, (u) => u.tag)).toEqual(before.units)
})
