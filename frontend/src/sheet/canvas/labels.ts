/** Where the tags of streams are written, with their values: off symbols, plates, lines and each other. */
import type { Box, Point } from './routing'

/** Where a tag stands at its line: at a point of it, on one side. Values stand across the line from it, or on the same side where it is to be. */
export interface Label {
  x: number
  y: number
  side: 'above' | 'over' | 'below' | 'right' | 'left'
  /** How much larger than usual its letters are. */
  size: number
  /** How many values stand with it, and how far texts keep off a line that is drawn wide. */
  values: number
  clear: number
}
/** Where texts are drawn: their x and how they hang on it, the baseline of the tag and that of the first value. */
export interface Lettering {
  x: number
  anchor: 'start' | 'middle' | 'end'
  tag: number
  values: number
}
/** A line whose tag is to be placed: its points, and what beside it takes room. */
export interface Lettered extends Room {
  id: string
  points: Point[]
}
/** How many values stand beside a tag, and how far a line that is drawn wide reaches beyond a usual one. */
export interface Room {
  values: number
  clear: number
}

/** Widths of a letter of a tag and of a usual value, height of a line of values. */
const LETTER = 7
const VALUE = 64
export const VALUE_ROW = 12
const UPRIGHT = ['right', 'left'] as const
const PLAIN = ['above', 'below'] as const
const LEVEL = ['above', 'over', 'below'] as const
const SHARES = [0.5, 0.3, 0.7, 0.15, 0.85]

/** The baselines of a label. */
export function letteringOf({ x, y, side, size, values, clear }: Label): Lettering {
  if (side === 'above') return { x, anchor: 'middle', tag: y - 5 - clear, values: y + 12 + clear }
  if (side === 'over') {
    const first = y - 5 - clear - VALUE_ROW * (values - 1)
    return { x, anchor: 'middle', tag: first - VALUE_ROW, values: first }
  }
  if (side === 'below')
    return { x, anchor: 'middle', tag: y + 2 + 10 * size + clear, values: y + 14 + 10 * size + clear }
  if (side === 'right') return { x: x + 6 + clear, anchor: 'start', tag: y + 4 * size, values: y + 13 + 4 * size }
  return { x: x - 6 - clear, anchor: 'end', tag: y + 4 * size, values: y + 13 + 4 * size }
}

/** Places for the tags of all ``lines``, those with the least choice first. */
export function labelsOf(lines: Lettered[], boxes: Box[], size = 1): Map<string, Label> {
  const space = new Space()
  for (const box of boxes) space.add(box, 1000)
  for (const { points, clear } of lines) for (const leg of legs(points)) space.add(boxAround(leg, 1 + clear), 300)
  const places = new Map<string, Label>()
  const ordered = [...lines].sort((a, b) => reach(a.points) - reach(b.points) || a.id.localeCompare(b.id))
  for (const line of ordered) {
    const label = bestPlace(line, space, size)
    places.set(line.id, label)
    for (const box of textBoxes(line.id, label)) space.add(box, 1000)
  }
  return places
}

/** A long stretch, horizontal if may be, its middle if may be; but before all where nothing else stands. */
function bestPlace(line: Lettered, space: Space, size: number): Label {
  const { values, clear } = line
  let best: Label = { x: line.points[0]?.x ?? 0, y: line.points[0]?.y ?? 0, side: 'above', size, values, clear }
  let least = Infinity
  for (const [a, b] of legs(line.points)) {
    const upright = a.y !== b.y
    const stretch = Math.abs(a.x - b.x) + Math.abs(a.y - b.y)
    const short = !upright && stretch < size * LETTER * line.id.length ? 80 : 0
    const long = Math.min(stretch, 400) * (upright ? 1 : 1.5)
    for (const part of SHARES)
      for (const side of upright ? UPRIGHT : values ? LEVEL : PLAIN) {
        const label: Label = { ...best, x: a.x + part * (b.x - a.x), y: a.y + part * (b.y - a.y), side }
        const base = short - 0.3 * long + 40 * Math.abs(part - 0.5) + (side === 'above' || side === 'right' ? 0 : 15)
        if (base >= least) continue
        const cost = base + textBoxes(line.id, label).reduce((sum, box) => sum + space.cost(box), 0)
        if (cost < least) [best, least] = [label, cost]
      }
  }
  return best
}

/** The room that a tag and its values take. */
function textBoxes(id: string, label: Label): Box[] {
  const { values } = label
  const at = letteringOf(label)
  const row = (wide: number, top: number, bottom: number): Box => {
    const left = at.anchor === 'start' ? at.x : at.anchor === 'end' ? at.x - wide : at.x - wide / 2
    return { left, top, right: left + wide, bottom }
  }
  const tag = row(label.size * LETTER * id.length, at.tag - 9 * label.size, at.tag + 2)
  return values ? [tag, row(VALUE, at.values - 8, at.values + 2 + VALUE_ROW * (values - 1))] : [tag]
}

const legs = (points: Point[]): [Point, Point][] => points.slice(1).map((p, k) => [points[k]!, p])
const reach = (points: Point[]) =>
  legs(points).reduce((sum, [a, b]) => sum + Math.abs(a.x - b.x) + Math.abs(a.y - b.y), 0)
const boxAround = ([a, b]: [Point, Point], by: number): Box => ({
  left: Math.min(a.x, b.x) - by,
  top: Math.min(a.y, b.y) - by,
  right: Math.max(a.x, b.x) + by,
  bottom: Math.max(a.y, b.y) + by,
})

/** What stands where, by squares of the sheet, so that only neighbours are looked at. */
class Space {
  private squares = new Map<string, Thing[]>()
  private looks = 0
  add(box: Box, weight: number) {
    const thing: Thing = { box, weight, seen: 0 }
    for (const key of squaresOf(box)) {
      const square = this.squares.get(key)
      if (square) square.push(thing)
      else this.squares.set(key, [thing])
    }
  }
  /** The weights of everything that a box lies on. */
  cost(box: Box): number {
    this.looks += 1
    let sum = 0
    for (const key of squaresOf(box))
      for (const thing of this.squares.get(key) ?? []) {
        if (thing.seen === this.looks) continue
        thing.seen = this.looks
        if (meet(thing.box, box)) sum += thing.weight
      }
    return sum
  }
}
interface Thing {
  box: Box
  weight: number
  seen: number
}
const SQUARE = 64
function* squaresOf(box: Box): Generator<string> {
  for (let i = Math.floor(box.left / SQUARE); i <= Math.floor(box.right / SQUARE); i++)
    for (let k = Math.floor(box.top / SQUARE); k <= Math.floor(box.bottom / SQUARE); k++) yield `${i} ${k}`
}
const meet = (a: Box, b: Box) => a.left < b.right && a.right > b.left && a.top < b.bottom && a.bottom > b.top
