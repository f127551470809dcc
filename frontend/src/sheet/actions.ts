import type { Edit, Unit, UnitType } from '../api/client'
import { useCatalogue, type StreamKind } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import { boxOf, portPlace } from './canvas/drawing'
import { sideOf } from './canvas/routing'
import { symbolOf } from './canvas/symbols'

export interface Joint {
  unit: string
  port: string
  title: string
  kind: StreamKind
}

/** Room that a unit keeps beside it for lines, and below it for its tag plate. */
const BESIDE = 24
const BELOW = 34

const LETTERS: Record<StreamKind, string> = { material: 'S', heat: 'Q', shaft: 'W' }

/** What can be done on the sheet, as edits of the document. */
export function useSheetActions() {
  const plant = usePlant()
  const catalogue = useCatalogue()

  function freePorts(direction: 'in' | 'out', only?: string): Joint[] {
    const streams = plant.document?.streams ?? []
    return (plant.document?.units ?? [])
      .filter((u) => !only || u.tag === only)
      .flatMap((u) =>
        (plant.typeOf(u)?.ports ?? [])
          .filter((p) => p.direction === direction)
          .filter((p) => {
            const used = streams.some((s) =>
              direction === 'out'
                ? s.source.unit === u.tag && s.source.port === p.key
                : s.target.unit === u.tag && s.target.port === p.key,
            )
            return p.many || !used
          })
          .map((p) => ({ unit: u.tag, port: p.key, title: p.title, kind: p.kind })),
      )
  }
  const firstFree = (tag: string, direction: 'in' | 'out', kind: StreamKind = 'material') =>
    freePorts(direction, tag).find((p) => p.kind === kind)

  /** Beside the unit it is connected to, its inlet at the height of that outlet, on free paper. */
  function place(type: UnitType, beside: Unit | undefined, from: Joint | undefined): { x: number; y: number } {
    const units = plant.document?.units ?? []
    const inlet = type.ports.find((p) => p.direction === 'in')
    const own = symbolOf(type.symbol)
    let wanted = { x: 80, y: 200 }
    if (beside) {
      const other = plant.typeOf(beside)
      const box = boxOf(other, beside)
      const port = other?.ports.find((p) => p.key === from?.port)
      const place = portPlace(port?.place ?? [1, 0.5], beside)
      const side = sideOf(place)
      const down = side === 'top' ? -80 : side === 'bottom' ? 80 : 0
      wanted = {
        x: (beside.x ?? 0) + box.width + (down ? 80 : 110),
        y: (beside.y ?? 0) + (place[1] ?? 0.5) * box.height + down - (inlet?.place[1] ?? 0.5) * own.height,
      }
    } else if (units.length) wanted = { x: inlet ? Math.max(...units.map((u) => u.x ?? 0)) + 150 : 60, y: 200 }
    return freePlace(wanted, own)
  }
  /** The place that is wanted, or the next one below where no unit and no tag plate is. */
  function freePlace(wanted: { x: number; y: number }, size: { width: number; height: number }) {
    const taken = (plant.document?.units ?? []).map((u) => ({ ...boxOf(plant.typeOf(u), u), x: u.x ?? 0, y: u.y ?? 0 }))
    const place = { x: Math.round(wanted.x), y: Math.round(wanted.y) }
    const clash = () =>
      taken.some(
        (b) =>
          place.x < b.x + b.width + BESIDE &&
          b.x < place.x + size.width + BESIDE &&
          place.y < b.y + b.height + BELOW &&
          b.y < place.y + size.height + BELOW,
      )
    for (let k = 0; k < 400 && clash(); k++) place.y += 20
    return place
  }

  async function add(type: UnitType): Promise<void> {
    const beside = plant.unit(plant.selected)
    const tag = plant.freeTag(type.letter)
    const inlet = type.ports.find((p) => p.direction === 'in')
    const from = beside ? firstFree(beside.tag, 'out', inlet?.kind) : undefined
    const unit = { tag, type: type.type, spec: {}, ...place(type, beside, from) }
    const edits: Edit[] = [{ kind: 'add_unit', unit }]
    if (from && inlet) edits.push(joinEdit(from, { unit: tag, port: inlet.key, title: '', kind: inlet.kind }))
    const refused = await plant.edit(
      edits.length > 1 ? { kind: 'batch', edits, label: `added ${type.title.toLowerCase()} ${tag}` } : edits[0]!,
    )
    if (!refused) plant.selected = tag
  }
  const matter = (t: UnitType, direction: 'in' | 'out') =>
    t.ports.filter((p) => p.direction === direction && p.kind === 'material')
  /** Unit types that fit into a line: one inlet, and an outlet where the line goes on. */
  function inLine(): UnitType[] {
    return (catalogue.data?.unit_types ?? []).filter(
      (t) => matter(t, 'in').length === 1 && matter(t, 'out').length >= 1,
    )
  }
  /** Open a stream and put a unit in, half way between its ends. */
  async function insert(type: UnitType, stream: string): Promise<void> {
    const line = plant.stream(stream)
    const [a, b] = [plant.unit(line?.source.unit ?? null), plant.unit(line?.target.unit ?? null)]
    const [inlet, outlet] = [matter(type, 'in')[0], matter(type, 'out')[0]]
    if (!a || !b || !inlet || !outlet) return
    const tag = plant.freeTag(type.letter)
    const middle = { x: ((a.x ?? 0) + (b.x ?? 0)) / 2, y: ((a.y ?? 0) + (b.y ?? 0)) / 2 }
    const unit = { tag, type: type.type, spec: {}, ...freePlace(middle, symbolOf(type.symbol)) }
    const refused = await plant.edit({ kind: 'insert_in_line', stream, unit, inlet: inlet.key, outlet: outlet.key })
    if (!refused) plant.selected = tag
  }
  /** Other streams from the same unit. */
  function siblings(stream: string): string[] {
    const line = plant.stream(stream)
    if (!line) return []
    return (plant.document?.streams ?? [])
      .filter((s) => s.source.unit === line.source.unit && s.tag !== stream && plant.kindOf(s) === plant.kindOf(line))
      .map((s) => s.tag)
  }
  function joinEdit(from: Joint, to: Joint): Edit {
    const stream = {
      tag: plant.freeTag(LETTERS[from.kind]),
      source: { unit: from.unit, port: from.port },
      target: { unit: to.unit, port: to.port },
    }
    return { kind: 'connect', stream }
  }
  function join(from: Joint, to: Joint): Promise<string> {
    return plant.edit(joinEdit(from, to))
  }
  function remove(tag: string): Promise<string> {
    return plant.edit(plant.unit(tag) ? { kind: 'remove_unit', tag } : { kind: 'disconnect', tag })
  }
  function rename(tag: string, next: string): Promise<string> {
    return plant.edit({ kind: 'rename', tag, new: next })
  }
  /** Give a feed the state that a stream has now, once; it does not follow the stream later. */
  async function copyState(tag: string, stream: string): Promise<string> {
    const state = plant.result?.streams[stream]
    const type = catalogue.type('feed')
    if (!state || !type) return ''
    const typed = (value: number, kind: string) => {
      const unit = catalogue.displayUnit(kind, plant.unitSet)
      return { value: catalogue.shown(value, kind, unit), unit }
    }
    const present = Object.entries(state.mole_fractions).filter(([, x]) => x > 0)
    const boils = present.length === 1 && state.vapour_fraction > 0 && state.vapour_fraction < 1
    const values: Record<string, unknown> = Object.fromEntries(type.fields.map((f) => [f.key, null]))
    values.pressure = typed(state.pressure, 'pressure')
    if (boils) values.vapour_fraction = { value: state.vapour_fraction, unit: '' }
    else values.temperature = typed(state.temperature, 'temperature')
    values.flow = typed(state.mole_flow, 'mole_flow')
    const fractions = Object.fromEntries(present.map(([id, value]) => [id, { value, unit: '' }]))
    values.composition = { basis: 'mole_fraction', values: fractions, normalise: true }
    return plant.edit({ kind: 'set_values', unit: tag, values } as Edit)
  }
  /** The neighbour of a unit or stream along the lines, down- or upstream. */
  function neighbour(tag: string, down: boolean): string | null {
    const stream = plant.stream(tag)
    if (stream) return down ? stream.target.unit : stream.source.unit
    const next = plant.document?.streams?.find((s) => (down ? s.source.unit : s.target.unit) === tag)
    return next?.tag ?? null
  }
  return { freePorts, firstFree, add, inLine, insert, siblings, join, remove, rename, copyState, neighbour }
}
