import { expect, test } from 'vitest'
import { patched } from './patches'

const plant = {
  title: 'A',
  units: [
    { tag: 'E-1', spec: { duty: 1 } },
    { tag: 'V-1', spec: {} },
    { tag: 'P-1', spec: {} },
  ],
  streams: { 'S/1~': { flow: 1 }, 'S-2': { flow: 2 } } as Record<string, unknown>,
}

test('what no step touches stays the same object, and the value before stays as it was', () => {
  const text = JSON.stringify(plant)
  const next = patched(plant, [
    { op: 'remove', path: '/units/2' },
    { op: 'add', path: '/units/0', value: { tag: 'F-1', spec: {} } },
    { op: 'replace', path: '/units/1/spec/duty', value: 2 },
    { op: 'remove', path: '/streams/S~11~0' },
    { op: 'add', path: '/streams/S-3', value: { flow: 3 } },
  ])
  expect(next.units.map((u) => u.tag)).toEqual(['F-1', 'E-1', 'V-1'])
  expect(next.units[1]).toEqual({ tag: 'E-1', spec: { duty: 2 } })
  expect(next.units[2]).toBe(plant.units[1])
  expect(next.streams).toEqual({ 'S-2': { flow: 2 }, 'S-3': { flow: 3 } })
  expect(next.streams['S-2']).toBe(plant.streams['S-2'])
  expect(JSON.stringify(plant)).toBe(text)
})

test('a step at the root puts something else there; no step is the same object', () => {
  expect(patched(plant, [{ op: 'replace', path: '', value: { title: 'B' } }])).toEqual({ title: 'B' })
  expect(patched(plant, [])).toBe(plant)
})
