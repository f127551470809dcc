import { expect, test } from 'vitest'
import type { Profile } from '../../api/client'
import { choicesOf, overlaid, sideBySide } from './sideBySide'

const value = (key: string, number: number, component = '') => ({
  key,
  title: key[0]!.toUpperCase() + key.slice(1),
  kind: 'fraction',
  value: number,
  component,
})
const profile = (along: number[], conversion: (number | null)[]) =>
  ({
    key: 'tube',
    title: 'Along',
    along: { key: 'length', title: 'Length', kind: 'length', values: along },
    columns: [{ key: 'conversion', title: 'Conversion', kind: 'fraction', values: conversion }],
    marks: [],
    ports: [],
  }) as unknown as Profile

test('values stand side by side, with a gap where a reactor has none', () => {
  const rows = sideBySide([
    { values: [value('conversion', 0.5), value('yield', 0.4, 'butanone')] },
    { values: [value('duty', 3), value('conversion', 0.6)] },
  ])
  expect(rows.map((r) => [r.title, ...r.cells])).toEqual([
    ['Conversion', 0.5, 0.6],
    ['Yield, butanone', 0.4, null],
    ['Duty', null, 3],
  ])
})

test('profiles over a length and a time lie in one picture', () => {
  const long = { tag: 'R-1', profile: profile([0, 2, 4], [0, 0.3, 0.5]) }
  const slow = { tag: 'R-2', profile: profile([0, 60], [0, null]) }
  expect(choicesOf([long.profile, slow.profile])).toEqual([{ id: 'conversion|', title: 'Conversion' }])
  const drawn = overlaid([long, slow], 'conversion|')!
  expect(drawn.curves.map((c) => c.name)).toEqual(['R-1', 'R-2'])
  expect(drawn.curves[0]!.points).toEqual([
    [0, 0],
    [0.5, 0.3],
    [1, 0.5],
  ])
  expect(drawn.curves[1]!.points).toEqual([[0, 0], null])
  expect(overlaid([long], 'rate|')).toBeNull()
})
