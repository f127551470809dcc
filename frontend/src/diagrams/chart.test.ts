import { beforeAll, describe, expect, it, vi } from 'vitest'
import type { Diagram } from '../api/client'
import { curveName, fromPaper, onPaper, option, placeText, rows, type Look, type Scale } from './chart'

const celsius: Scale = { title: 'temperature', unit: 'degC', log: false, shown: (si) => si - 273.15 }
const fraction: Scale = { title: 'mole fraction of water', unit: '', log: false, shown: (si) => si }
const boiling: Diagram = {
  title: 'water and ethanol at 1 bar, NRTL',
  axes: [
    { title: 'mole fraction of water', kind: 'fraction', log: false },
    { title: 'temperature', kind: 'temperature', log: false },
  ],
  curves: [
    { name: 'bubble', role: 'line', points: [[0, 351.4], null, [1, 373.15]] },
    { name: 'still', role: 'points', points: [[0.5, 352]] },
  ],
  marks: [{ name: 'azeotrope', place: [0.1, 351.3], text: 'unstable node', temperature: null }],
  notes: [],
}
const triangle: Diagram = {
  title: 'three',
  axes: ['a', 'b', 'c'].map((title) => ({ title, kind: 'fraction', log: false })),
  curves: [
    {
      name: 'boundary',
      role: 'line',
      points: [
        [0.2, 0.3, 0.5],
        [1, 0, 0],
      ],
    },
  ],
  marks: [],
  notes: [],
}
const look = (scales: Scale[], more: Partial<Look> = {}): Look => ({
  scales,
  hot: celsius,
  form: 'triangle',
  pinned: [],
  hidden: [],
  measured: [],
  size: [600, 500],
  ...more,
})
interface Drawn {
  type: string
  name: string
  data: unknown[]
  lineStyle?: { type: string }
}
const series = (o: object) => (o as { series: Drawn[] }).series

beforeAll(() => {
  vi.stubGlobal('document', { documentElement: {} })
  vi.stubGlobal('getComputedStyle', () => ({ getPropertyValue: () => '#123456' }))
})

describe('the composition triangle on paper', () => {
  it.each(['triangle', 'right angle'] as const)('a place comes back from a %s', (form) => {
    for (const place of [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
      [0.2, 0.3, 0.5],
      [0.9, 0.05, 0.05],
    ]) {
      const [x, y] = onPaper(place, form)
      fromPaper(x, y, form).forEach((v, k) => expect(v).toBeCloseTo(place[k]!, 12))
    }
  })

  it('has sides of equal length', () => {
    const corners = [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ].map((p) => onPaper(p, 'triangle'))
    const side = (i: number, j: number) => Math.hypot(corners[i]![0] - corners[j]![0], corners[i]![1] - corners[j]![1])
    expect(side(0, 1)).toBeCloseTo(1, 12)
    expect(side(1, 2)).toBeCloseTo(1, 12)
    expect(side(2, 0)).toBeCloseTo(1, 12)
  })
})

describe('the numbers of a diagram', () => {
  it('come in the units shown, points lifted left out, marks last', () => {
    const [head, ...body] = rows([boiling], [fraction, celsius], celsius)
    expect(head).toEqual(['', 'mole fraction of water', 'temperature, °C'])
    expect(body).toHaveLength(4)
    expect(body[1]![2]).toBeCloseTo(100, 9)
    expect(body.at(-1)![0]).toBe('azeotrope')
  })

  it('are told with their units', () => {
    expect(placeText([0.5, 373.15], [fraction, celsius])).toBe('mole fraction of water 0.5, temperature 100 °C')
    const three = ['a', 'b', 'c'].map((title) => ({ ...fraction, title }))
    expect(placeText([0.2, 0.3, 0.5], three)).toBe('a 0.2, b 0.3, c 0.5')
    expect(placeText([0.2, 0.3, 0.5, 373.15], three, celsius)).toBe('a 0.2, b 0.3, c 0.5, boils at 100 °C')
    const curves = triangle.curves.map((c) => ({ ...c, temperatures: [363.15, null] }))
    const [head, ...body] = rows([{ ...triangle, curves }], three, celsius)
    expect(head!.at(-1)).toBe('temperature, °C')
    expect(body.map((r) => r.length)).toEqual([5, 4])
    expect(body[0]![4]).toBeCloseTo(90, 9)
  })
})

describe('the picture', () => {
  it('draws curves as lines, measurements as points, readings as pins', () => {
    const drawn = series(
      option(
        [boiling],
        look([fraction, celsius], { pinned: [[0.5, 360]], measured: [{ name: 'lab', points: [[0.2, 355]] }] }),
      ),
    )
    const kinds = Object.fromEntries(drawn.map((s) => [s.name, s.type]))
    expect(kinds).toEqual({ bubble: 'line', still: 'scatter', marks: 'scatter', lab: 'scatter', read: 'scatter' })
    expect(drawn.find((s) => s.name === 'bubble')!.data[1]).toEqual([null, null])
    expect(drawn.find((s) => s.name === 'lab')!.data[0]).toEqual([0.2, 355 - 273.15])
  })

  it('tells a second model by name and by its dashes', () => {
    const other = { ...boiling, title: 'water and ethanol at 1 bar, UNIQUAC' }
    const drawn = series(option([boiling, other], look([fraction, celsius])))
    expect(drawn.find((s) => s.name === 'bubble, NRTL')!.lineStyle!.type).toBe('solid')
    expect(drawn.find((s) => s.name === 'bubble, UNIQUAC')!.lineStyle!.type).toBe('dashed')
  })

  it('keeps curves hidden that were hidden, of several diagrams by their full names', () => {
    const other = { ...boiling, title: 'water and ethanol at 1 bar, UNIQUAC' }
    const both = [boiling, other]
    expect(both.map((d) => curveName(both, d, d.curves[0]!))).toEqual(['bubble, NRTL', 'bubble, UNIQUAC'])
    const drawn = option(both, look([fraction, celsius], { hidden: ['bubble, UNIQUAC'], pinned: [[0.5, 360]] }))
    expect((drawn as { legend: { selected: object } }).legend.selected).toEqual({ 'bubble, UNIQUAC': false })
  })

  it('keeps the proportions of a triangle in any box', () => {
    const three = ['a', 'b', 'c'].map((title) => ({ ...fraction, title }))
    for (const size of [
      [900, 300],
      [300, 900],
      [640, 640],
    ] as [number, number][]) {
      const grid = (option([triangle], look(three, { size })) as { grid: { width: number; height: number } }).grid
      expect(grid.height / grid.width).toBeCloseTo(Math.sqrt(0.75), 12)
      expect(grid.width).toBeLessThanOrEqual(Math.max(size[0], 100))
    }
    expect(series(option([triangle], look(three))).some((s) => s.name === 'boundary')).toBe(true)
  })
})
