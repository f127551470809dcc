/** An area as a sheet of its own: what lies in it, and a connector at its border for every stream that leads across. */
import type { Area, Stream, UnitType } from '../../api/client'
import type { StreamKind } from '../../stores/catalogue'
import { boxOf, portPoint, type Placed } from './drawing'
import { symbolOf } from './symbols'

/** Where a stream crosses the border: the unit at its other end, and whether it comes in there. */
export interface Connector {
  id: string
  stream: string
  other: string
  inward: boolean
  place: Placed
}
export interface AreaSheet {
  placed: Placed[]
  streams: Stream[]
  connectors: Connector[]
}

/** Distance of the connectors from the border, and between two of them. */
const OFF = { left: 150, right: 60 }
const APART = 54

/** Whether the middle of a unit lies in an area. */
export function liesIn(area: Area, { x, y, type, unit }: Placed): boolean {
  const box = boxOf(type, unit)
  const [dx, dy] = [x + box.width / 2 - area.x, y + box.height / 2 - area.y]
  return dx >= 0 && dy >= 0 && dx <= area.width && dy <= area.height
}

/** What of the whole sheet belongs to an area; streams that cross its border end at connectors beside it. */
export function areaSheet(area: Area, all: Placed[], streams: Stream[]): AreaSheet {
  const inside = all.filter((p) => liesIn(area, p))
  const byTag = new Map(inside.map((p) => [p.unit.tag, p]))
  const connectors: Connector[] = []
  const drawn: Stream[] = []
  for (const stream of streams) {
    const [from, to] = [byTag.get(stream.source.unit), byTag.get(stream.target.unit)]
    if (!from && !to) continue
    if (from && to) {
      drawn.push(stream)
      continue
    }
    const [end, other] = from ? [stream.source, stream.target] : [stream.target, stream.source]
    const port = (from ?? to)!.type?.ports.find((p) => p.key === end.port)
    const at = portPoint(from ?? to, end.port)
    if (!port || !at) continue
    const id = `${other.unit} (${stream.tag})`
    const y = at.point.y - symbolOf('connector').height / 2
    const x = from ? area.x + area.width + OFF.right : area.x - OFF.left
    connectors.push({
      id,
      stream: stream.tag,
      other: other.unit,
      inward: !from,
      place: placeOf(id, x, y, !from, port.kind),
    })
    const outer = { unit: id, port: 'end' }
    drawn.push(from ? { ...stream, target: outer } : { ...stream, source: outer })
  }
  for (const inward of [true, false]) spread(connectors.filter((c) => c.inward === inward))
  return { placed: [...inside, ...connectors.map((c) => c.place)], streams: drawn, connectors }
}

/** Connectors of one side one below the other, each as near as may be to the port that it leads to. */
function spread(side: Connector[]) {
  side.sort((a, b) => a.place.y - b.place.y || a.id.localeCompare(b.id))
  side.forEach((c, k) => {
    if (k) c.place.y = Math.max(c.place.y, side[k - 1]!.place.y + APART)
  })
}

/** A connector as the drawing takes a unit: a symbol with one port. */
function placeOf(id: string, x: number, y: number, inward: boolean, kind: StreamKind): Placed {
  const place = inward ? [1, 0.5] : [0, 0.5]
  const port = { key: 'end', title: id, direction: inward ? 'out' : 'in', kind, place, needed: true }
  const type = { type: 'connector', title: 'Connector', symbol: 'connector', ports: [port] } as unknown as UnitType
  return { unit: { tag: id, type: 'connector', spec: {} } as Placed['unit'], type, x, y }
}
