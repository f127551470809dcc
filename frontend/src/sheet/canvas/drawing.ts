import type { Stream, Unit, UnitType } from '../../api/client'
import type { StreamKind } from '../../stores/catalogue'
import { labelsOf, VALUE_ROW, type Label, type Lettered, type Room } from './labels'
import { routeAll, sideOf, type Box, type Point, type Side, type Wish } from './routing'
import { symbolOf, type Symbol } from './symbols'

export interface Placed {
  unit: Unit
  type: UnitType | undefined
  x: number
  y: number
  /** How many values stand below its plate. */
  values?: number
}
export interface Route {
  stream: Stream
  kind: StreamKind
  points: Point[]
}
export interface Line extends Route {
  label: Label
}

/** A table of results as texts. */
export interface Drawn {
  head: string[]
  rows: { title: string; unit: string; cells: string[] }[]
}
/** Height of its rows; widths of its first column, its units, a stream. */
export const ROW = 15
export const WIDE = [150, 54, 64] as const

/** How a symbol lies on the sheet: mirrored, then turned clockwise by so many degrees. */
export interface Pose {
  flipped?: boolean
  turned?: number
}

/** Where a port sits on its symbol, mirrored and turned with it. */
export function portPlace(place: readonly number[], pose: Pose): [number, number] {
  const [x = 0, y = 0.5] = place
  const from = pose.flipped ? 1 - x : x
  if (pose.turned === 90) return [1 - y, from]
  if (pose.turned === 180) return [1 - from, 1 - y]
  if (pose.turned === 270) return [y, 1 - from]
  return [from, y]
}

/** The symbol of a unit type as it lies: lying down, width and height change places, and the plate keeps off the lines. */
export function boxOf(type: UnitType | undefined, pose: Pose): Symbol {
  const s = symbolOf(type?.symbol)
  if (!pose.turned) return s
  const [width, height] = pose.turned === 180 ? [s.width, s.height] : [s.height, s.width]
  return { ...s, width, height, plate: 'corner' }
}

/** What brings the paths of a symbol into its box. */
export function poseTransform(type: UnitType | undefined, pose: Pose): string {
  const { width: w, height: h } = symbolOf(type?.symbol)
  const turns: Record<number, string> = {
    90: `translate(${h} 0) rotate(90) `,
    180: `translate(${w} ${h}) rotate(180) `,
    270: `translate(0 ${w}) rotate(270) `,
  }
  return (turns[pose.turned ?? 0] ?? '') + (pose.flipped ? `translate(${w} 0) scale(-1 1)` : '')
}

/** The tag plate of a symbol: its left upper corner, and whether x means the middle. */
export function platePlace(type: UnitType | undefined, pose: Pose): { x: number; y: number; middle: boolean } {
  const s = boxOf(type, pose)
  if (s.plate === 'beside') return { x: s.width + 8, y: s.height - 30, middle: false }
  if (s.plate === 'corner') return { x: s.width * 0.72, y: s.height + 4, middle: false }
  return { x: s.width / 2, y: s.height + 7, middle: true }
}

/** What lines and labels keep clear of; ``size`` is how much larger than drawn letters and plates are shown. */
export function boxesOf(placed: Placed[], size = 1): Box[] {
  return placed.flatMap(({ x, y, type, unit, values }) => {
    const s = boxOf(type, unit)
    const wide = size * (24 + 8 * unit.tag.length)
    const high = size * (22 + VALUE_ROW * (values ?? 0))
    const plate = platePlace(type, unit)
    const [left, top] = [x + plate.x - (plate.middle ? wide / 2 : 2), y + plate.y - 2]
    return [
      { left: x, top: y, right: x + s.width, bottom: y + s.height },
      { left, top, right: left + wide, bottom: top + high },
    ]
  })
}

/** The streams as they run between their ports. */
export function routesOf(placed: Placed[], streams: Stream[]): Route[] {
  const byTag = new Map(placed.map((p) => [p.unit.tag, p]))
  const wishes: Wish[] = []
  for (const stream of streams) {
    const from = portPoint(byTag.get(stream.source.unit), stream.source.port)
    const to = portPoint(byTag.get(stream.target.unit), stream.target.port)
    if (from && to)
      wishes.push({ id: stream.tag, from: from.point, fromSide: from.side, to: to.point, toSide: to.side })
  }
  const routes = routeAll(wishes, boxesOf(placed))
  return streams.map((stream) => {
    const source = byTag.get(stream.source.unit)?.type
    const kind = source?.ports.find((p) => p.key === stream.source.port)?.kind ?? 'material'
    return { stream, kind, points: routes.get(stream.tag) ?? [] }
  })
}
/** What takes room beside the tag of a stream. */
export type RoomOf = (tag: string, kind: StreamKind) => Room

/** Where the tag of each stream and its values are written. */
export function lettered(
  routes: Route[],
  placed: Placed[],
  roomOf: RoomOf = () => ({ values: 0, clear: 0 }),
  size = 1,
): Line[] {
  const shown = ({ stream, kind, points }: Route): Lettered => ({
    id: stream.tag,
    points,
    ...roomOf(stream.tag, kind),
  })
  const labels = labelsOf(routes.map(shown), boxesOf(placed, size), size)
  return routes.map((route) => ({ ...route, label: labels.get(route.stream.tag)! }))
}

/** Where a port of a unit lies on the sheet, and on which side of its symbol. */
export function portPoint(found: Placed | undefined, key: string): { point: Point; side: Side } | null {
  const port = found?.type?.ports.find((p) => p.key === key)
  if (!found || !port) return null
  const s = boxOf(found.type, found.unit)
  const place = portPlace(port.place, found.unit)
  return { point: { x: found.x + place[0] * s.width, y: found.y + place[1] * s.height }, side: sideOf(place) }
}

export function pathOf(points: Point[]): string {
  return points.map((p, k) => `${k ? 'L' : 'M'}${p.x} ${p.y}`).join('')
}

export function arrowOf(points: Point[]): string {
  const end = points[points.length - 1]
  const before = points[points.length - 2]
  if (!end || !before) return ''
  const dx = Math.sign(end.x - before.x)
  const dy = Math.sign(end.y - before.y)
  return `M${end.x} ${end.y}l${-8 * dx - 4 * dy} ${-8 * dy - 4 * dx}l${8 * dy} ${8 * dx}z`
}

/** Heat is dotted; matter by how much of it is vapour; liquids and shafts are whole lines. */
export function dashOf(kind: StreamKind, vapourFraction: number | undefined, flow?: number): string {
  if (kind === 'heat') return '1.5 4'
  if (flow === 0) return '1 5'
  if (vapourFraction === undefined || vapourFraction === 0) return ''
  return vapourFraction === 1 ? '9 4' : '12 3 2 3'
}

/** Which calculated values stand beside a unit or stream: its own choice, else that of its type. */
export function shownKeys(shown: Record<string, string[]> | undefined, tag: string, type: string): string[] {
  return shown?.[tag] ?? shown?.[type] ?? []
}
