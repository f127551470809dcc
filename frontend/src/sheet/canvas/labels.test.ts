import { describe, expect, it } from 'vitest'
import { labelsOf, letteringOf, type Label, type Lettered } from './labels'
import type { Box } from './routing'

const level = (id: string, y: number, from: number, to: number, values = 0, clear = 0): Lettered => ({
  id,
  points: [
    { x: from, y },
    { x: to, y },
  ],
  values,
  clear,
})
/** What a tag covers, a little less than is kept free for it. */
function covered(id: string, label: Label): Box {
  const { x, anchor, tag } = letteringOf(label)
  const wide = 6 * id.length
  const left = anchor === 'start' ? x : anchor === 'end' ? x - wide : x - wide / 2
  return { left, top: tag - 8, right: left + wide, bottom: tag + 1 }
}
const meet = (a: Box, b: Box) => a.left < b.right && a.right > b.left && a.top < b.bottom && a.bottom > b.top

describe('tags of streams', () => {
  it('stand off symbols, other lines and each other on a crowded sheet', () => {
    const across = Array.from({ length: 12 }, (_, k) => level(`S-${k + 10}`, 26 * k, 0, 300))
    const down = Array.from({ length: 5 }, (_, k): Lettered => {
      const x = 40 + 60 * k
      return {
        id: `R-${k + 10}`,
        points: [
          { x, y: -120 },
          { x, y: 400 },
        ],
        values: 0,
        clear: 0,
      }
    })
    const symbol = { left: 120, top: -20, right: 180, bottom: 60 }
    const lines = [...across, ...down]
    const labels = labelsOf(lines, [symbol])
    const boxes = lines.map((line) => covered(line.id, labels.get(line.id)!))
    boxes.forEach((box, k) => {
      expect(meet(box, symbol)).toBe(false)
      boxes.slice(k + 1).forEach((other) => expect(meet(box, other)).toBe(false))
      for (const { id, points } of lines) {
        const [a, b] = [points[0]!, points[1]!]
        const line = {
          left: Math.min(a.x, b.x),
          top: Math.min(a.y, b.y),
          right: Math.max(a.x, b.x),
          bottom: Math.max(a.y, b.y),
        }
        if (id !== lines[k]!.id) expect(meet(box, line)).toBe(false)
      }
    })
  })

  it('keep room for the values beside them', () => {
    const label = labelsOf([level('S-1', 0, 0, 400, 3), level('S-2', 24, 0, 160)], []).get('S-1')!
    expect(label.side === 'over' || label.x - 32 > 160).toBe(true)
  })

  it('keep off lines that are drawn wide, their own and others, and go over the line where a plate lies under it', () => {
    const wide = level('S-2', 30, 0, 400, 0, 5)
    const beside = labelsOf([level('S-1', 0, 0, 100, 2, 4), wide], []).get('S-1')!
    // Values under the line would reach 33, over the edge of the wide one at 24.
    expect(beside.side).toBe('over')
    const { tag, values } = letteringOf(beside)
    expect(values + 12).toBeLessThanOrEqual(-4)
    expect(tag).toBeLessThan(values - 9)
  })

  it('do not depend on the order in which streams are listed', () => {
    const lines = [level('S-1', 0, 0, 60), level('S-2', 0, 60, 120), level('S-3', 10, 0, 120)]
    const [one, two] = [labelsOf(lines, []), labelsOf([...lines].reverse(), [])]
    for (const { id } of lines) expect(two.get(id)).toEqual(one.get(id))
  })
})
