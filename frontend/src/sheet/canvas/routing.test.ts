import { describe, expect, it } from 'vitest'
import { routeAll, sideOf, type Box, type Point, type Wish } from './routing'

const wish = (id: string, from: Point, to: Point): Wish => ({ id, from, fromSide: 'right', to, toSide: 'left' })
const legs = (points: Point[]) => points.slice(1).map((p, k) => [points[k]!, p] as const)
const inside = (p: Point, b: Box) => p.x > b.left && p.x < b.right && p.y > b.top && p.y < b.bottom

describe('routes of streams', () => {
  it('go straight where nothing is in the way', () => {
    const route = routeAll([wish('S-1', { x: 0, y: 50 }, { x: 200, y: 50 })], []).get('S-1')!
    expect(route[0]).toEqual({ x: 0, y: 50 })
    expect(route.at(-1)).toEqual({ x: 200, y: 50 })
    expect(new Set(route.map((p) => p.y))).toEqual(new Set([50]))
  })

  it('have only level and upright legs and start and end at their ports', () => {
    const wishes = [
      wish('S-1', { x: 0, y: 0 }, { x: 300, y: 120 }),
      wish('S-2', { x: 300, y: 200 }, { x: 0, y: 80 }),
      { ...wish('S-3', { x: 40, y: 60 }, { x: 90, y: -70 }), fromSide: 'bottom' as const, toSide: 'top' as const },
    ]
    const routes = routeAll(wishes, [])
    for (const w of wishes) {
      const route = routes.get(w.id)!
      expect([route[0], route.at(-1)]).toEqual([w.from, w.to])
      for (const [a, b] of legs(route)) expect(a.x === b.x || a.y === b.y).toBe(true)
    }
  })

  it('do not run through a unit that stands between', () => {
    const box = { left: 80, top: 20, right: 140, bottom: 100 }
    const route = routeAll([wish('S-1', { x: 0, y: 60 }, { x: 220, y: 60 })], [box]).get('S-1')!
    for (const [a, b] of legs(route))
      for (let s = 0; s <= 1; s += 0.02)
        expect(inside({ x: a.x + s * (b.x - a.x), y: a.y + s * (b.y - a.y) }, box)).toBe(false)
  })

  it('do not depend on the order in which streams are listed', () => {
    const wishes = [
      wish('S-1', { x: 0, y: 0 }, { x: 300, y: 120 }),
      wish('S-2', { x: 0, y: 30 }, { x: 300, y: 90 }),
      wish('S-3', { x: 0, y: 60 }, { x: 300, y: 10 }),
    ]
    const one = routeAll(wishes, [])
    const two = routeAll([...wishes].reverse(), [])
    for (const w of wishes) expect(two.get(w.id)).toEqual(one.get(w.id))
  })

  it('leave a port on the side where it sits', () => {
    expect([sideOf([0, 0.5]), sideOf([1, 0.5]), sideOf([0.5, 0]), sideOf([0.5, 1])]).toEqual([
      'left',
      'right',
      'top',
      'bottom',
    ])
  })
})
