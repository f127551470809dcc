import type { Stream } from '../../api/client'
import { boxOf, portPlace, type Placed } from './drawing'
import { sideOf } from './routing'

/** As many units are laid in one row; more are folded into bands below each other, as wide as a sheet of paper lies. */
const THREAD = 8
const BANDS = {
  'elk.layered.wrapping.strategy': 'MULTI_EDGE',
  'elk.layered.wrapping.additionalEdgeSpacing': '30',
  'elk.aspectRatio': '1.8',
}
/** The layout library stumbles over some plants when it tidies up edges between bands, and over others in bands at all. */
const PLAINER: Record<string, string>[] = [
  {},
  { 'elk.layered.wrapping.multiEdge.improveWrappedEdges': 'false' },
  { 'elk.layered.wrapping.strategy': 'OFF' },
]
const SIDE = { left: 'WEST', right: 'EAST', top: 'NORTH', bottom: 'SOUTH' }

/** New places for units, layer by layer along the streams and band by band; the upper left corner of the lot stays where it is. */
export async function arranged(placed: Placed[], streams: Stream[]): Promise<Record<string, [number, number]>> {
  const { default: Elk } = await import('elkjs/lib/elk.bundled.js')
  const tags = new Set(placed.map((p) => p.unit.tag))
  const inner = streams.filter((s) => tags.has(s.source.unit) && tags.has(s.target.unit))
  const elk = new Elk()
  const graph = await firstThatWorks(PLAINER, (plainer) => elk.layout(question(placed, inner, plainer)))
  const left = Math.min(...placed.map((p) => p.x))
  const top = Math.min(...placed.map((p) => p.y))
  const found = graph.children ?? []
  const corner = [Math.min(...found.map((n) => n.x ?? 0)), Math.min(...found.map((n) => n.y ?? 0))] as const
  return Object.fromEntries(
    found.map((n) => [
      n.id,
      [round(left + (n.x ?? 0) - corner[0]), round(top + (n.y ?? 0) - corner[1])] as [number, number],
    ]),
  )
}
/** The units with their ports and the streams between them, as the layout library wants them. */
function question(placed: Placed[], inner: Stream[], plainer: Record<string, string>) {
  return {
    id: 'sheet',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      ...(placed.length > THREAD ? BANDS : {}),
      'elk.spacing.nodeNode': '56',
      'elk.layered.spacing.nodeNodeBetweenLayers': '100',
      'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
      'elk.layered.cycleBreaking.strategy': 'MODEL_ORDER',
      ...plainer,
    },
    children: downstream(placed, inner).map(({ unit, type }) => {
      const s = boxOf(type, unit)
      return {
        id: unit.tag,
        width: s.width,
        height: s.height + (s.plate === 'below' ? 30 : 0),
        layoutOptions: { 'elk.portConstraints': 'FIXED_POS' },
        ports: (type?.ports ?? []).map((port) => {
          const [x, y] = portPlace(port.place, unit)
          return {
            id: `${unit.tag}/${port.key}`,
            x: x * s.width,
            y: y * s.height,
            width: 0,
            height: 0,
            layoutOptions: { 'elk.port.side': SIDE[sideOf([x, y])] },
          }
        }),
      }
    }),
    edges: inner.map((s) => ({
      id: s.tag,
      sources: [`${s.source.unit}/${s.source.port}`],
      targets: [`${s.target.unit}/${s.target.port}`],
    })),
  }
}
async function firstThatWorks<A, B>(ways: A[], work: (way: A) => Promise<B>): Promise<B> {
  for (const way of ways.slice(0, -1)) {
    try {
      return await work(way)
    } catch {
      continue
    }
  }
  return work(ways.at(-1)!)
}
/** From the feeds on, so that recycles are what runs back. */
function downstream(placed: Placed[], streams: Stream[]): Placed[] {
  const fed = new Set(streams.map((s) => s.target.unit))
  const found = new Map<string, Placed>()
  const byTag = new Map(placed.map((p) => [p.unit.tag, p]))
  const queue = placed.filter((p) => !fed.has(p.unit.tag))
  for (const start of [...queue, ...placed]) {
    const walk = [start]
    for (let next = walk.shift(); next; next = walk.shift()) {
      if (found.has(next.unit.tag)) continue
      found.set(next.unit.tag, next)
      const tag = next.unit.tag
      walk.push(...streams.filter((s) => s.source.unit === tag).map((s) => byTag.get(s.target.unit)!))
    }
  }
  return [...found.values()]
}
function round(value: number): number {
  return Math.round(value)
}
