import { describe, expect, it } from 'vitest'
import type { Area, Stream, UnitType } from '../../api/client'
import { areaSheet } from './areaSheet'
import { boxesOf, lettered, routesOf, type Placed } from './drawing'

const port = (key: string, direction: string, x: number) => ({
  key,
  title: key,
  direction,
  kind: 'material',
  place: [x, 0.5],
  needed: true,
})
const type = {
  type: 'valve',
  title: 'Valve',
  symbol: 'valve',
  ports: [port('inlet', 'in', 0), port('outlet', 'out', 1)],
} as unknown as UnitType
const valve = (tag: string, x: number, y: number): Placed => ({
  unit: { tag, type: 'valve', spec: {} } as Placed['unit'],
  type,
  x,
  y,
})
const stream = (tag: string, from: string, to: string) =>
  ({ tag, source: { unit: from, port: 'outlet' }, target: { unit: to, port: 'inlet' } }) as Stream
const area = { name: 'Recovery', x: 200, y: 0, width: 300, height: 400 } as Area

/** Six lines in a row each: the first valve before the area, two in it, the last behind it. */
const all = [0, 1, 2, 3, 4, 5].flatMap((k) => [
  valve(`A-${k}`, 0, 20 * k),
  valve(`B-${k}`, 220, 20 + 55 * k),
  valve(`C-${k}`, 400, 20 + 55 * k),
  valve(`D-${k}`, 700, 20 * k),
])
const streams = [0, 1, 2, 3, 4, 5].flatMap((k) => [
  stream(`S-${k}1`, `A-${k}`, `B-${k}`),
  stream(`S-${k}2`, `B-${k}`, `C-${k}`),
  stream(`S-${k}3`, `C-${k}`, `D-${k}`),
])

describe('an area as a sheet of its own', () => {
  const sheet = areaSheet(area, all, [...streams, stream('S-99', 'A-0', 'D-0')])

  it('holds its units, the streams between them, and a connector for each that crosses its border', () => {
    const units = sheet.placed.filter((p) => p.unit.type !== 'connector').map((p) => p.unit.tag)
    expect(units.sort()).toEqual(
      all
        .map((p) => p.unit.tag)
        .filter((tag) => /^[BC]/.test(tag))
        .sort(),
    )
    expect(sheet.streams.map((s) => s.tag).sort()).toEqual(streams.map((s) => s.tag).sort())
    expect(sheet.connectors.filter((c) => c.inward).map((c) => [c.stream, c.other])).toEqual(
      [0, 1, 2, 3, 4, 5].map((k) => [`S-${k}1`, `A-${k}`]),
    )
    expect(sheet.connectors.filter((c) => !c.inward).map((c) => c.other)).toEqual([
      'D-0',
      'D-1',
      'D-2',
      'D-3',
      'D-4',
      'D-5',
    ])
  })

  it('draws every line from port to connector, and connectors lie beside the area without covering each other', () => {
    for (const line of lettered(routesOf(sheet.placed, sheet.streams), sheet.placed))
      expect(line.points.length).toBeGreaterThan(1)
    for (const c of sheet.connectors) expect(c.place.x < area.x || c.place.x > area.x + area.width).toBe(true)
    const boxes = sheet.connectors.map((c) => boxesOf([c.place])[1]!)
    boxes.forEach((a, i) =>
      boxes
        .slice(i + 1)
        .forEach((b) =>
          expect(a.left < b.right && a.right > b.left && a.top < b.bottom && a.bottom > b.top).toBe(false),
        ),
    )
  })
})
