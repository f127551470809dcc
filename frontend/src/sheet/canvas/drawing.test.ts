import { describe, expect, it } from 'vitest'
import type { Plant, Result, Stream, Unit, UnitType } from '../../api/client'
import { arranged } from './arrange'
import {
  arrowOf,
  boxesOf,
  boxOf,
  dashOf,
  routesOf,
  pathOf,
  platePlace,
  portPlace,
  poseTransform,
  shownKeys,
  type Placed,
} from './drawing'
import { sheetSvg } from './sheetFile'

const port = (key: string, direction: 'in' | 'out', place: [number, number]) => ({
  key,
  title: key,
  direction,
  many: false,
  needed: true,
  place,
})
const type = (symbol: string) =>
  ({
    type: symbol,
    title: symbol,
    symbol,
    letter: 'E',
    ports: [port('inlet', 'in', [0, 0.5]), port('outlet', 'out', [1, 0.5])],
    fields: [],
    choices: [],
  }) as unknown as UnitType
const placed = (tag: string, symbol: string, x: number, y: number, flipped = false, turned = 0): Placed => ({
  unit: { tag, type: symbol, spec: {}, x, y, flipped, turned } as Unit,
  type: type(symbol),
  x,
  y,
})
const stream = (tag: string, from: string, to: string): Stream => ({
  tag,
  source: { unit: from, port: 'outlet' },
  target: { unit: to, port: 'inlet' },
})
const three = () => [placed('E-1', 'heater', 0, 0), placed('E-2', 'cooler', 200, 0), placed('P-1', 'pump', 400, 120)]
const lines = [stream('S-1', 'E-1', 'E-2'), stream('S-2', 'E-2', 'P-1')]

describe('what is drawn', () => {
  it('mirrors ports with their symbol', () => {
    expect(portPlace([0, 0.5], {})).toEqual([0, 0.5])
    expect(portPlace([0, 0.5], { flipped: true })).toEqual([1, 0.5])
    const [line] = routesOf([placed('E-1', 'heater', 0, 0, true), placed('E-2', 'cooler', 200, 0)], [lines[0]!])
    expect(line!.points[0]).toEqual({ x: 0, y: 22 })
  })
  it('turns ports, boxes and paths with their symbol', () => {
    expect([90, 180, 270].map((turned) => portPlace([0, 0.25], { turned }))).toEqual([
      [0.75, 0],
      [1, 0.75],
      [0.25, 1],
    ])
    expect(portPlace([0, 0.25], { flipped: true, turned: 90 })).toEqual([0.75, 1])
    const drum = boxOf(type('drum'), { turned: 90 })
    expect([drum.width, drum.height]).toEqual([76, 38])
    expect(poseTransform(type('drum'), { turned: 90, flipped: true })).toBe(
      'translate(76 0) rotate(90) translate(38 0) scale(-1 1)',
    )
    expect(poseTransform(type('drum'), {})).toBe('')
    const [line] = routesOf(
      [placed('V-1', 'drum', 0, 0, false, 90), placed('E-2', 'cooler', 200, 100)],
      [stream('S-1', 'V-1', 'E-2')],
    )
    expect(line!.points[0]).toEqual({ x: 38, y: 38 }) // the outlet at the right comes to lie at the foot
  })
  it('starts and ends every stream at its ports', () => {
    const drawn = routesOf(three(), lines)
    expect(drawn.map((l) => l.stream.tag)).toEqual(['S-1', 'S-2'])
    expect(drawn[0]!.points[0]).toEqual({ x: 44, y: 22 })
    expect(drawn[0]!.points[drawn[0]!.points.length - 1]).toEqual({ x: 200, y: 22 })
    expect(routesOf(three(), [stream('S-9', 'E-1', 'X-9')])[0]!.points).toEqual([])
  })
  it('keeps a box for each symbol and each tag plate', () => {
    const boxes = boxesOf(three())
    expect(boxes).toHaveLength(6)
    expect(boxes[1]!.top).toBeGreaterThan(boxes[0]!.bottom)
    expect(platePlace(type('drum'), {}).middle).toBe(false)
    expect(platePlace(type('pump'), {}).middle).toBe(true)
    expect(platePlace(type('exchanger'), {}).x).toBeGreaterThan(20)
  })
  it('tells phases apart by their line', () => {
    expect([undefined, 0, 1, 0.5].map((v) => dashOf('material', v))).toEqual(['', '', '9 4', '12 3 2 3'])
    expect(dashOf('material', 0.5, 0)).toBe('1 5')
    expect([dashOf('heat', undefined), dashOf('shaft', undefined)]).toEqual(['1.5 4', ''])
  })
  it('writes paths and arrows', () => {
    expect(pathOf([])).toBe('')
    expect(
      pathOf([
        { x: 0, y: 1 },
        { x: 5, y: 1 },
      ]),
    ).toBe('M0 1L5 1')
    expect(arrowOf([{ x: 0, y: 0 }])).toBe('')
    expect(
      arrowOf([
        { x: 0, y: 0 },
        { x: 9, y: 0 },
      ]),
    ).toContain('M9 0')
  })
  it('shows what was chosen for one before what was chosen for its type', () => {
    const shown = { stream: ['temperature'], 'S-1': ['pressure'], 'S-2': [] }
    expect(shownKeys(shown, 'S-1', 'stream')).toEqual(['pressure'])
    expect(shownKeys(shown, 'S-3', 'stream')).toEqual(['temperature'])
    expect(shownKeys(shown, 'S-2', 'stream')).toEqual([])
    expect(shownKeys(undefined, 'S-1', 'stream')).toEqual([])
  })
})

describe('a new arrangement', () => {
  it('goes along the streams and keeps the corner of the lot', async () => {
    const places = await arranged([...three()].reverse(), lines)
    expect(places['E-1']![0]).toBeLessThan(places['E-2']![0])
    expect(places['E-2']![0]).toBeLessThan(places['P-1']![0])
    expect(Math.min(...Object.values(places).map((p) => p[0]))).toBe(0)
    expect(Math.min(...Object.values(places).map((p) => p[1]))).toBe(0)
  })
  it('folds a long plant into bands', async () => {
    const many = Array.from({ length: 54 }, (_, k) => placed(`E-${k}`, 'heater', 0, 0))
    const along = many.slice(1).map((_, k) => stream(`S-${k}`, `E-${k}`, `E-${k + 1}`))
    const places = Object.values(await arranged(many, [...along, stream('S-r', 'E-40', 'E-31')]))
    const [wide, high] = [0, 1].map(
      (k) => Math.max(...places.map((p) => p[k]!)) - Math.min(...places.map((p) => p[k]!)),
    )
    expect(wide! / high!).toBeLessThan(3)
    expect(wide!).toBeLessThan(0.3 * 54 * 144)
  })
  it('finds places where the layout library stumbles over the bands', async () => {
    // Drums that part, splitters that lead back, loops within loops.
    const plant =
      'F.outlet>E0 E0.outlet>E1 E1.outlet>X2 X2.outlet>E2 E2.vapour>Z2 E2.liquid>X3 X3.outlet>E3 E3.vapour>Z3 E3.liquid>X4 X4.outlet>E4 E4.outlet>N1 N1.outlet_1>X2 N1.outlet_2>E5 E5.outlet>N2 N2.outlet_1>X3 N2.outlet_2>E6 E6.outlet>N0 N0.outlet_1>X4 N0.outlet_2>E7 E7.outlet>E8 E8.vapour>Z8 E8.liquid>E9 E9.outlet>E10 E10.outlet>E11 E11.vapour>Z11 E11.liquid>X12 X12.outlet>E12 E12.vapour>Z12 E12.liquid>E13 E13.outlet>E14 E14.outlet>N4 N4.outlet_1>X12 N4.outlet_2>X15 X15.outlet>E15 E15.outlet>E16 E16.outlet>N3 N3.outlet_1>X15 N3.outlet_2>E17 E17.outlet>E18 E18.outlet>E19 E19.vapour>Z19 E19.liquid>Z'
    const ends = plant.split(' ').map((line) => line.split(/[.>]/) as [string, string, string])
    const places: Record<string, [number, number]> = {
      vapour: [0.5, 0],
      liquid: [0.5, 1],
      outlet_1: [1, 0.2],
      outlet_2: [1, 0.4],
    }
    const many = [...new Set(ends.flatMap(([from, , to]) => [from, to]))].map((tag) => {
      const outlets = [...new Set(ends.filter(([from]) => from === tag).map(([, key]) => key))]
      const symbol = outlets.includes('vapour') ? 'drum' : outlets.length > 1 ? 'splitter' : 'heater'
      const ports = [port('inlet', 'in', [0, 0.5]), ...outlets.map((key) => port(key, 'out', places[key] ?? [1, 0.5]))]
      const found = placed(tag, symbol, 0, 0)
      return { ...found, type: { ...found.type!, ports } as unknown as UnitType }
    })
    const all = ends.map(([unit, port, to], k): Stream => ({ ...stream(`S-${k}`, unit, to), source: { unit, port } }))
    expect(Object.keys(await arranged(many, all))).toHaveLength(many.length)
  })
  it('lays no two symbols on top of each other, recycles included', async () => {
    const many = Array.from({ length: 12 }, (_, k) => placed(`E-${k}`, 'heater', 0, 0))
    const back = [...many.slice(1).map((_, k) => stream(`S-${k}`, `E-${k}`, `E-${k + 1}`)), stream('S-r', 'E-9', 'E-2')]
    const places = Object.values(await arranged(many, back))
    for (const [k, a] of places.entries())
      for (const b of places.slice(k + 1)) expect(Math.abs(a[0] - b[0]) >= 44 || Math.abs(a[1] - b[1]) >= 44).toBe(true)
  })
})

describe('the drawing as a file', () => {
  const plant = {
    title: 'Pilot <plant> & more',
    streams: lines,
    notes: [{ name: 'n', text: 'one\ntwo', x: 10, y: 300 }],
    tables: [{ name: 'Table 1', streams: ['S-1'], rows: ['temperature'], x: 20, y: 500 }],
    areas: [{ name: 'Area 1', x: -20, y: -20, width: 300, height: 120 }],
  } as unknown as Plant
  const drawnTables = new Map([
    ['Table 1', { head: ['S-1'], rows: [{ title: 'temperature', unit: '°C', cells: ['25.125'] }] }],
  ])
  const result = { streams: { 'S-1': { vapour_fraction: 1 } } } as unknown as Result
  const svg = sheetSvg(plant, three(), result, { 'S-1': ['25 °C'] }, drawnTables)

  it('is one whole picture with tags, notes, areas and a title block', () => {
    expect(svg.startsWith('<svg xmlns="http://www.w3.org/2000/svg"')).toBe(true)
    for (const text of [
      'E-1',
      'S-2',
      'one',
      'two',
      'Area 1',
      '25 °C',
      'Table 1',
      '25.125',
      'Pilot &lt;plant&gt; &amp; more',
    ])
      expect(svg).toContain(`>${text}</text>`)
    expect(svg).toContain('stroke-dasharray="9 4"')
    expect(svg).not.toContain('var(')
  })
  it('is well formed and holds everything inside its frame', () => {
    const opened = svg.match(/<(g|svg|text)\b/g)!.length
    const closed = svg.match(/<\/(g|svg|text)>/g)!.length
    expect(opened).toBe(closed)
    const [left, top, width, height] = /viewBox="([^"]+)"/.exec(svg)![1]!.split(' ').map(Number) as [
      number,
      number,
      number,
      number,
    ]
    expect(left).toBeLessThan(-20)
    expect(top).toBeLessThan(-20)
    expect(left + width).toBeGreaterThan(440)
    expect(top + height).toBeGreaterThan(314)
  })
})
