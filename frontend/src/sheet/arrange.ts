import type { Stream } from '../api/client'
import { portPlace, type Placed } from './drawing'
import { sideOf } from './routing'
import { symbolOf } from './symbols'

const SIDE = { left: 'WEST', right: 'EAST', top: 'NORTH', bottom: 'SOUTH' }

/** New places for units, layer by layer along the streams; the upper left corner of the lot stays where it is. */
export async function arranged(placed: Placed[], streams: Stream[]): Promise<Record<string, [number, number]>> {
  const { default: Elk } = await import('elkjs/lib/elk.bundled.js')
  const tags = new Set(placed.map((p) => p.unit.tag))
  const inner = streams.filter((s) => tags.has(s.source.unit) && tags.has(s.target.unit))
  const graph = await new Elk().layout({
    id: 'sheet',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.spacing.nodeNode': '56',
      'elk.layered.spacing.nodeNodeBetweenLayers': '100',
      'elk.layered.cycleBreaking.strategy': 'GREEDY',
    },
    children: placed.map(({ unit, type }) => {
      const s = symbolOf(type?.symbol)
      return {
        id: unit.tag,
        width: s.width,
        height: s.height + (s.plate === 'below' ? 30 : 0),
        layoutOptions: { 'elk.portConstraints': 'FIXED_POS' },
        ports: (type?.ports ?? []).map((port) => {
          const [x, y] = portPlace(port.place, unit.flipped)
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
  })
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
function round(value: number): number {
  return Math.round(value)
}
