/** Orthogonal routes between ports: few bends, short, not through units, not on top of each other. */
export interface Point {
  x: number
  y: number
}
export interface Box {
  left: number
  top: number
  right: number
  bottom: number
}
export interface Wish {
  id: string
  from: Point
  fromSide: Side
  to: Point
  toSide: Side
}
export type Side = 'left' | 'right' | 'top' | 'bottom'

const STUB = 14
/** How far beyond its ends a line may look for a way round symbols. */
const AROUND = 250
const OUT: Record<Side, Point> = {
  left: { x: -1, y: 0 },
  right: { x: 1, y: 0 },
  top: { x: 0, y: -1 },
  bottom: { x: 0, y: 1 },
}

/** The side of a symbol on which a port at relative place (0..1, 0..1) lies. */
export function sideOf(place: readonly number[]): Side {
  const [x = 0, y = 0.5] = place
  if (x <= 0) return 'left'
  if (x >= 1) return 'right'
  return y <= 0.5 ? 'top' : 'bottom'
}

/** Routes for all wishes, the shortest first. */
export function routeAll(wishes: Wish[], boxes: Box[]): Map<string, Point[]> {
  const taken = new Lanes()
  const blocks = new Blocks(boxes)
  const routes = new Map<string, Point[]>()
  const ordered = [...wishes].sort(
    (a, b) => length([a.from, a.to]) - length([b.from, b.to]) || a.id.localeCompare(b.id),
  )
  for (const wish of ordered) {
    const points = cheapest(candidates(wish, boxes), blocks, taken)
    routes.set(wish.id, points)
    taken.add(points)
  }
  return routes
}

/** Short and straight ones are looked at first; none is that could not win even if it met nothing on its way. */
function cheapest(lines: Point[][], blocks: Blocks, taken: Lanes): Point[] {
  const ordered = lines.map((points) => ({ points, base: length(points) + 26 * points.length }))
  ordered.sort((a, b) => a.base - b.base)
  let best = ordered[0]!.points
  let least = Infinity
  for (const { points, base } of ordered) {
    if (base >= least) break
    const whole = base + met(points, blocks, taken, least - base)
    if (whole < least) [best, least] = [points, whole]
  }
  return best
}

/** Boxes by the squares that they lie in, so that those in the way of a straight piece are found at once. */
class Blocks {
  private squares = new Map<number, { box: Box; seen: number }[]>()
  private looks = 0
  constructor(boxes: Box[]) {
    for (const box of boxes) {
      const known = { box, seen: 0 }
      for (let i = square(box.left); i <= square(box.right); i++)
        for (let k = square(box.top); k <= square(box.bottom); k++) keep(this.squares, i * WIDE + k, known)
    }
  }
  /** How many boxes a piece runs through. */
  hit(a: Point, b: Point): number {
    this.looks += 1
    const [left, right] = a.x < b.x ? [a.x, b.x] : [b.x, a.x]
    const [top, bottom] = a.y < b.y ? [a.y, b.y] : [b.y, a.y]
    let count = 0
    for (let i = square(left); i <= square(right); i++)
      for (let k = square(top); k <= square(bottom); k++) {
        const near = this.squares.get(i * WIDE + k)
        if (!near) continue
        for (const known of near) {
          if (known.seen === this.looks) continue
          known.seen = this.looks
          const { box } = known
          if (right > box.left + 1 && left < box.right - 1 && bottom > box.top + 1 && top < box.bottom - 1) count += 1
        }
      }
    return count
  }
}
const WIDE = 1 << 20
const square = (at: number) => Math.floor(at / 128)
function keep<T>(shelves: Map<number, T[]>, at: number, what: T) {
  const there = shelves.get(at)
  if (there) there.push(what)
  else shelves.set(at, [what])
}

/** A straight piece: the coordinate that it keeps, and from where to where it runs in the other. */
interface Piece {
  at: number
  from: number
  to: number
}
const level = (a: Point, b: Point): Piece => ({ at: a.y, from: Math.min(a.x, b.x), to: Math.max(a.x, b.x) })
const upright = (a: Point, b: Point): Piece => ({ at: a.x, from: Math.min(a.y, b.y), to: Math.max(a.y, b.y) })

/** Straight pieces of lines by where they run, so that what lies beside one is found at once. */
class Lanes {
  private rows = new Map<number, Piece[]>()
  private columns = new Map<number, Piece[]>()
  add(points: Point[]) {
    for (let k = 0; k + 1 < points.length; k++) {
      const [a, b] = [points[k]!, points[k + 1]!]
      const [lanes, piece] = a.y === b.y ? [this.rows, level(a, b)] : [this.columns, upright(a, b)]
      keep(lanes, lane(piece.at), piece)
    }
  }
  /** How far a piece runs within 6 units of others in its direction. */
  beside(a: Point, b: Point): number {
    const lanes = a.y === b.y ? this.rows : this.columns
    const { at, from, to } = a.y === b.y ? level(a, b) : upright(a, b)
    let sum = 0
    for (let k = lane(at) - 1; k <= lane(at) + 1; k++) {
      const there = lanes.get(k)
      if (!there) continue
      for (const other of there)
        if (Math.abs(other.at - at) < 6) sum += Math.max(0, Math.min(to, other.to) - Math.max(from, other.from))
    }
    return sum
  }
}
const lane = (at: number) => Math.floor(at / 6)

function candidates(wish: Wish, boxes: Box[]): Point[][] {
  const a = step(wish.from, wish.fromSide)
  const b = step(wish.to, wish.toSide)
  const near = boxes.filter(
    (x) =>
      x.right > Math.min(a.x, b.x) - AROUND &&
      x.left < Math.max(a.x, b.x) + AROUND &&
      x.bottom > Math.min(a.y, b.y) - AROUND &&
      x.top < Math.max(a.y, b.y) + AROUND,
  )
  const xs = [...new Set([(a.x + b.x) / 2, a.x, b.x, ...near.flatMap((x) => [x.left - 16, x.right + 16])])]
  const ys = [...new Set([(a.y + b.y) / 2, a.y, b.y, ...near.flatMap((x) => [x.top - 16, x.bottom + 16])])]
  const inner: Point[][] = [[{ x: b.x, y: a.y }], [{ x: a.x, y: b.y }]]
  for (const x of xs)
    inner.push([
      { x, y: a.y },
      { x, y: b.y },
    ])
  for (const y of ys)
    inner.push([
      { x: a.x, y },
      { x: b.x, y },
    ])
  for (const x of xs.slice(0, 9))
    for (const y of ys.slice(0, 9))
      inner.push([
        { x, y: a.y },
        { x, y },
        { x: b.x, y },
      ])
  return inner.map((middle) => tidy([wish.from, a, ...middle, b, wish.to]))
}

function step(point: Point, side: Side): Point {
  return { x: point.x + OUT[side].x * STUB, y: point.y + OUT[side].y * STUB }
}

/** Drop repeated points and points inside a straight run; keep reversals, which cost dearly. */
function tidy(points: Point[]): Point[] {
  const kept: Point[] = []
  for (const p of points) {
    const last = kept[kept.length - 1]
    if (last && Math.abs(last.x - p.x) < 0.5 && Math.abs(last.y - p.y) < 0.5) continue
    const before = kept[kept.length - 2]
    if (before && last && straight(before, last, p)) kept[kept.length - 1] = p
    else kept.push(p)
  }
  return kept
}
function straight(a: Point, b: Point, c: Point): boolean {
  const horizontal = a.y === b.y && b.y === c.y && (b.x - a.x) * (c.x - b.x) > 0
  const vertical = a.x === b.x && b.x === c.x && (b.y - a.y) * (c.y - b.y) > 0
  return horizontal || vertical
}

function length(points: Point[]): number {
  let sum = 0
  for (let k = 0; k + 1 < points.length; k++)
    sum += Math.abs(points[k]!.x - points[k + 1]!.x) + Math.abs(points[k]!.y - points[k + 1]!.y)
  return sum
}

/** What a line costs beyond its length: doubling back, symbols in its way, lines that it hides. Counted up to ``most`` only. */
function met(points: Point[], blocks: Blocks, taken: Lanes, most: number): number {
  let sum = 0
  for (let k = 0; k + 1 < points.length && sum < most; k++) {
    const [a, b] = [points[k]!, points[k + 1]!]
    const c = points[k + 2]
    if (c && ((a.x === b.x && b.x === c.x) || (a.y === b.y && b.y === c.y))) sum += 2000
    sum += 900 * blocks.hit(a, b) + 8 * taken.beside(a, b)
  }
  return sum
}
