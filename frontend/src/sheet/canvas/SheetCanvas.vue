<script setup lang="ts">
import {
  VueFlow,
  getRectOfNodes,
  useVueFlow,
  type Connection,
  type Edge,
  type Node,
  type NodeDragEvent,
  type NodeMouseEvent,
} from '@vue-flow/core'
import { useThrottleFn } from '@vueuse/core'
import { computed, provide, shallowRef, watch } from 'vue'
import { MiniMap } from '@vue-flow/minimap'
import '@vue-flow/minimap/dist/style.css'
import type { Area, Edit, Stream, Unit } from '../../api/client'
import type { StreamKind } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useSheetActions } from '../actions'
import { useSheet } from '../../stores/sheet'
import { areaSheet, liesIn, type AreaSheet } from './areaSheet'
import { arranged } from './arrange'
import { useBeside } from './beside'
import { boxOf, lettered, routesOf, shownKeys, type Placed } from './drawing'
import type { Room } from './labels'
import { MOVING, type MovingLines } from './moving'
import { save, sheetSvg, svgToPdf, svgToPng } from './sheetFile'
import SheetTools from './SheetTools.vue'
import StreamEdge from './StreamEdge.vue'
import TableNode from './TableNode.vue'
import { useTables } from '../tables'
import ConnectorNode from './ConnectorNode.vue'
import UnitNode from './UnitNode.vue'

const emit = defineEmits<{ area: [name: string] }>()
const plant = usePlant()
const actions = useSheetActions()
const sheet = useSheet()
const beside = useBeside()
const tables = useTables()
const { viewport, dimensions, getNodes, setViewport, onNodesInitialized, getSelectedNodes, removeSelectedElements } =
  useVueFlow('sheet')
/** Pixels of letters that can be read, and how much larger than drawn they may become for it. */
const LEGIBLE = 9.5
const MOST = 1.7
/** Room around the drawing when the whole of it is shown, and below it for the plates that hang there. */
const MARGIN = 34
const PLATES = 48
const nodes = shallowRef<Node[]>([])
/** Live places while a unit is dragged; the document's otherwise. */
const dragged = shallowRef<Record<string, { x: number; y: number }>>({})

/** The ports of a unit where its givens make them. */
const ports = (unit: Unit) => plant.variant?.shapes[unit.tag]?.ports.map((p) => [p.key, p.place])
/** How many values are to stand beside a unit, a stream; room is kept for them before they are calculated. */
const besideUnit = (unit: Unit) => shownKeys(plant.document?.shown, unit.tag, unit.type).length
function besideStream(tag: string, kind: StreamKind): Room {
  const shown = plant.document?.shown
  const values = kind === 'material' ? shownKeys(shown, tag, 'stream').length : shown?.stream?.length ? 1 : 0
  return { values, clear: sheet.overlay === 'none' ? 0 : Math.ceil(beside.widthOf(tag) / 2 - 1.5) }
}
/** What the drawing depends on; values of units do not redraw it. */
const drawn = computed(() =>
  JSON.stringify([
    (plant.document?.units ?? []).map((u) => [u.tag, u.type, u.x, u.y, u.flipped, u.turned, ports(u)]),
    (plant.document?.streams ?? []).map((s) => [s.tag, s.source, s.target]),
    plant.document?.notes,
    plant.document?.areas,
    plant.document?.tables,
    plant.document?.shown,
    plant.editable,
    sheet.area,
  ]),
)
const units = shallowRef<Unit[]>([])
/** Every unit where it stands, and what of them is on the sheet that is shown. */
const still = shallowRef<Placed[]>([])
const shown = shallowRef<AreaSheet>({ placed: [], streams: [], connectors: [] })
const area = computed(() => plant.document?.areas?.find((a) => a.name === sheet.area))
watch(
  drawn,
  () => {
    units.value = plant.document?.units ?? []
    still.value = units.value.map((u) => ({
      unit: u,
      x: u.x ?? 0,
      y: u.y ?? 0,
      type: plant.typeOf(u),
      values: besideUnit(u),
    }))
    const streams = plant.document?.streams ?? []
    shown.value = area.value
      ? areaSheet(area.value, still.value, streams)
      : { placed: still.value, streams, connectors: [] }
    const onSheet = new Set(shown.value.placed.map((p) => p.unit.tag))
    /** Notes and tables belong to an area where their corner lies in it. */
    const here = (at: { x?: number; y?: number }) =>
      !area.value ||
      ((at.x ?? 0) >= area.value.x &&
        (at.x ?? 0) <= area.value.x + area.value.width &&
        (at.y ?? 0) >= area.value.y &&
        (at.y ?? 0) <= area.value.y + area.value.height)
    dragged.value = {}
    const paper = { draggable: plant.editable, connectable: false }
    nodes.value = [
      ...(area.value ? [area.value] : (plant.document?.areas ?? [])).map((a) => ({
        id: `area:${a.name}`,
        type: 'area',
        position: { x: a.x, y: a.y },
        data: a,
        zIndex: -1,
        ...paper,
      })),
      ...(plant.document?.notes ?? []).filter(here).map((n) => ({
        id: `note:${n.name}`,
        type: 'note',
        position: { x: n.x ?? 0, y: n.y ?? 0 },
        data: n,
        ...paper,
      })),
      ...(plant.document?.tables ?? []).filter(here).map((t) => ({
        id: `table:${t.name}`,
        type: 'table',
        position: { x: t.x ?? 0, y: t.y ?? 0 },
        data: t,
        ...paper,
      })),
      ...shown.value.connectors.map((c) => ({
        id: c.id,
        type: 'connector',
        position: { x: c.place.x, y: c.place.y },
        data: c,
        draggable: false,
        connectable: false,
        selectable: false,
      })),
      ...units.value
        .filter((u) => onSheet.has(u.tag))
        .map((u) => ({
          id: u.tag,
          type: 'unit',
          position: { x: u.x ?? 0, y: u.y ?? 0 },
          data: { type: u.type, flipped: !!u.flipped, turned: u.turned ?? 0 },
          draggable: plant.editable,
          connectable: plant.editable,
        })),
    ]
  },
  { immediate: true },
)
/** Letters are drawn larger where the sheet is seen from afar, so that tags stay legible; up to where they would cover each other. */
const lettering = computed(() => Math.min(MOST, Math.max(1, LEGIBLE / (12 * viewport.value.zoom))))
/** The whole sheet, tag plates included: they hang below the symbols. */
function fit() {
  const { width, height } = dimensions.value
  if (!getNodes.value.length || !width || !height) return
  const box = getRectOfNodes(getNodes.value)
  const [wide, high] = [box.width + 2 * MARGIN, box.height + MARGIN + PLATES]
  const zoom = Math.min(1.15, Math.max(0.2, Math.min(width / wide, height / high)))
  const x = width / 2 - zoom * (box.x + box.width / 2)
  const y = (height - zoom * high) / 2 - zoom * (box.y - MARGIN)
  void setViewport({ x, y, zoom })
}
onNodesInitialized(() => {
  if (!fitted) fit()
  fitted = true
})
let fitted = false
watch(
  () => [sheet.placed, area.value?.name],
  () => window.setTimeout(fit, 80),
)

const placed = computed<Placed[]>(() =>
  shown.value.placed.map((p) => (p.unit.tag in dragged.value ? { ...p, ...dragged.value[p.unit.tag]! } : p)),
)
const routes = computed(() => routesOf(shown.value.placed, shown.value.streams))
/** Letters in steps, so that tags do not wander while one zooms. */
const size = computed(() => Math.ceil(lettering.value * 4) / 4)
const settled = computed(() => lettered(routes.value, shown.value.placed, besideStream, size.value))
/** While units are dragged only their own lines are drawn anew, past nothing but the units at their ends; all find their place when they are dropped. */
const moving = computed<MovingLines>(() => {
  const moves = (s: Stream) => s.source.unit in dragged.value || s.target.unit in dragged.value
  if (!Object.keys(dragged.value).length) return new Map()
  const streams = shown.value.streams.filter(moves)
  const ends = new Set(streams.flatMap((s) => [s.source.unit, s.target.unit]))
  const own = routesOf(
    placed.value.filter((p) => ends.has(p.unit.tag)),
    streams,
  )
  return new Map(lettered(own, [], besideStream, size.value).map((line) => [line.stream.tag, line]))
})
provide(MOVING, moving)
const edges = computed<Edge[]>(() =>
  settled.value.map(({ stream: s, kind, points, label }) => ({
    id: s.tag,
    type: 'stream',
    source: s.source.unit,
    target: s.target.unit,
    sourceHandle: s.source.port,
    targetHandle: s.target.port,
    data: { kind, points, label },
  })),
)
/** Units that share their place with another: of a plant that was written without a drawing, all. */
const stacked = computed(() => {
  const places = new Map<string, number>()
  for (const { x, y } of shown.value.placed) places.set(`${x} ${y}`, (places.get(`${x} ${y}`) ?? 0) + 1)
  return [...places.values()].reduce((sum, n) => sum + (n > 1 ? n : 0), 0)
})
/** New places along the streams: for the chosen units where there are several, else for all. */
async function arrange() {
  const several = sheet.chosen.length > 1
  const moved = placed.value.filter((p) => (several ? sheet.chosen.includes(p.unit.tag) : plant.unit(p.unit.tag)))
  if (!moved.length || !plant.editable) return
  const places = await arranged(moved, plant.document?.streams ?? [])
  await plant.edit({ kind: 'move', places })
  fit()
}
/** The chosen units in one row or one column, their middles on a line. */
function align(way: 'row' | 'column') {
  const moved = placed.value.filter((p) => sheet.chosen.includes(p.unit.tag))
  if (moved.length < 2) return
  const middle = (p: Placed) => {
    const box = boxOf(p.type, p.unit)
    return way === 'row' ? p.y + box.height / 2 : p.x + box.width / 2
  }
  const line = moved.reduce((sum, p) => sum + middle(p), 0) / moved.length
  const places = Object.fromEntries(
    moved.map((p) => {
      const by = Math.round(line - middle(p))
      return [p.unit.tag, way === 'row' ? [p.x, p.y + by] : [p.x + by, p.y]]
    }),
  )
  void plant.edit({ kind: 'move', places } as Edit)
}
/** The drawing as a file. */
async function download(kind: 'svg' | 'png' | 'pdf') {
  if (!plant.document) return
  const svg = sheetSvg(
    { ...plant.document, ...paper() },
    placed.value,
    plant.result,
    beside.texts.value,
    tables.all.value,
  )
  const name = plant.document.title.replace(/[^\w-]+/g, '_') || 'sheet'
  const blob =
    kind === 'svg'
      ? new Blob([svg], { type: 'image/svg+xml' })
      : kind === 'pdf'
        ? await svgToPdf(svg)
        : await svgToPng(svg)
  if (blob) save(`${name}.${kind}`, blob)
}
/** What of the document is drawn beside the units. */
function paper() {
  const names = (kind: string) => new Set(nodes.value.filter((n) => n.type === kind).map((n) => n.data.name as string))
  const [areas, notes, drawn] = [names('area'), names('note'), names('table')]
  return {
    streams: shown.value.streams,
    areas: plant.document?.areas?.filter((a) => areas.has(a.name)),
    notes: plant.document?.notes?.filter((n) => notes.has(n.name)),
    tables: plant.document?.tables?.filter((t) => drawn.has(t.name)),
  }
}
/** What is selected comes into sight: on the sheet of its area, or on the whole one. */
watch(
  () => plant.selected,
  (tag) => {
    const line = plant.stream(tag)
    const tags = line ? [line.source.unit, line.target.unit] : tag ? [tag] : []
    const on = (of: string) => shown.value.placed.some((p) => p.unit.tag === of)
    if (!area.value || !tags.length || tags.some(on)) return
    const found = still.value.find((p) => p.unit.tag === tags[0])
    emit('area', (found && plant.document?.areas?.find((a) => liesIn(a, found))?.name) ?? '')
  },
)
function click(event: NodeMouseEvent) {
  if (event.node.type !== 'unit') return
  const pressed = event.event
  if (pressed.shiftKey || pressed.ctrlKey || pressed.metaKey) sheet.toggle(event.node.id)
  else plant.selected = event.node.id
}
/** A frame drawn with the shift key held chooses all units that it touches. */
function framed() {
  const tags = getSelectedNodes.value.filter((n) => n.type === 'unit').map((n) => n.id)
  removeSelectedElements()
  if (tags.length) sheet.choose(tags)
}

/** Once a picture, however often the pointer tells that it moved. */
const drag = useThrottleFn(({ nodes: moved }: NodeDragEvent) => {
  dragged.value = Object.fromEntries(moved.map((n) => [n.id, { ...n.position }]))
}, 16)
function drop(event: NodeDragEvent) {
  const places: Record<string, [number, number]> = {}
  for (const node of event.nodes) {
    if (node.type !== 'unit') {
      movedPaper(node.id, node.position)
      continue
    }
    const old = plant.unit(node.id)
    const next: [number, number] = [Math.round(node.position.x / 5) * 5, Math.round(node.position.y / 5) * 5]
    if (old && (old.x !== next[0] || old.y !== next[1])) places[node.id] = next
  }
  const tags = Object.keys(places)
  if (tags.length === 1 && sheet.chosen.length > 1 && sheet.chosen.includes(tags[0]!)) {
    // One of a group takes the others with it.
    const old = plant.unit(tags[0]!)!
    const [dx, dy] = [places[tags[0]!]![0] - (old.x ?? 0), places[tags[0]!]![1] - (old.y ?? 0)]
    for (const tag of sheet.chosen) {
      const unit = plant.unit(tag)!
      places[tag] = [(unit.x ?? 0) + dx, (unit.y ?? 0) + dy]
    }
  }
  if (tags.length) void plant.edit({ kind: 'move', places })
  else dragged.value = {}
}
/** A note, a table or an area that was dragged. */
function movedPaper(id: string, to: { x: number; y: number }) {
  const [kind = '', name = ''] = id.split(/:(.*)/s)
  const at = { x: Math.round(to.x / 5) * 5, y: Math.round(to.y / 5) * 5 }
  const note = plant.document?.notes?.find((n) => n.name === name)
  const area = plant.document?.areas?.find((a) => a.name === name)
  const table = plant.document?.tables?.find((t) => t.name === name)
  if (kind === 'note' && note) void plant.edit({ kind: 'set_note', name, note: { ...note, ...at } })
  if (kind === 'table' && table) void plant.edit({ kind: 'set_table', name, table: { ...table, ...at } })
  if (kind === 'area' && area) movedArea(area, at)
}
/** An area takes along the units that lie in it. */
function movedArea(area: Area, at: { x: number; y: number }) {
  const inside = still.value.filter((p) => liesIn(area, p))
  const set: Edit = { kind: 'set_area', name: area.name, area: { ...area, ...at } }
  const places = Object.fromEntries(
    inside.map((p) => [p.unit.tag, [p.x + at.x - area.x, p.y + at.y - area.y] as [number, number]]),
  )
  const edits: Edit[] = inside.length ? [set, { kind: 'move', places }] : [set]
  void plant.edit({ kind: 'batch', edits, label: `moved area ${area.name}` })
}
function connect(link: Connection) {
  if (!link.sourceHandle || !link.targetHandle) return
  const kind = plant.carried(link.source, link.sourceHandle)
  void actions.join(
    { unit: link.source, port: link.sourceHandle, title: '', kind },
    { unit: link.target, port: link.targetHandle, title: '', kind },
  )
}
/** Matter goes to matter, heat to heat, a shaft to a shaft. */
function fits(link: Connection): boolean {
  const carried = (tag: string, port: string | null | undefined) => plant.carried(tag, port ?? '')
  return (
    link.source !== link.target && carried(link.source, link.sourceHandle) === carried(link.target, link.targetHandle)
  )
}
defineExpose({ fit, arrange, align, download })
</script>

<template>
  <div class="grid h-full grid-rows-[auto_minmax(0,1fr)]">
    <SheetTools @arrange="arrange" @align="align" @download="download" @area="emit('area', $event)" />
    <div class="relative row-start-2 min-h-0" data-test="sheet">
      <VueFlow
        id="sheet"
        :nodes="nodes"
        :edges="edges"
        :min-zoom="0.2"
        :max-zoom="3"
        :delete-key-code="null"
        :select-nodes-on-drag="false"
        :nodes-focusable="false"
        :edges-focusable="false"
        :disable-keyboard-a11y="true"
        :zoom-on-double-click="false"
        :edges-updatable="false"
        :style="{ '--lettering': lettering }"
        :is-valid-connection="fits"
        @node-click="click"
        @selection-end="framed"
        @edge-click="plant.selected = $event.edge.id"
        @pane-click="plant.selected = null"
        @node-drag="drag"
        @node-drag-stop="drop"
        @connect="connect"
      >
        <template #node-unit="node"><UnitNode :id="node.id" :data="node.data" /></template>
        <template #node-connector="node"><ConnectorNode :connector="node.data" /></template>
        <template #node-area="node">
          <button
            class="block border border-dashed border-ink3 text-left align-top"
            :style="{ width: node.data.width + 'px', height: node.data.height + 'px' }"
            :aria-label="`Area ${node.data.name}`"
            @dblclick="sheet.open('area', node.data.name)"
          />
          <p
            class="absolute right-0 bottom-full flex gap-2 pb-[3px] text-[12px] whitespace-nowrap text-ink2"
            :style="{ transform: 'scale(var(--lettering))', transformOrigin: 'bottom right' }"
          >
            <span class="tag">{{ node.data.name }}</span>
            <button
              class="link nodrag"
              :aria-label="area ? 'Show the whole plant' : `Open area ${node.data.name}`"
              @click="emit('area', area ? '' : node.data.name)"
            >
              {{ area ? 'whole plant' : 'open' }}
            </button>
          </p>
        </template>
        <template #node-note="node"
          ><button
            class="max-w-[260px] border-l-2 border-rule pl-2 text-left text-[12px] leading-[15px] whitespace-pre-line text-ink2"
            :aria-label="`Note ${node.data.name}`"
            @dblclick="sheet.open('note', node.data.name)"
          >
            {{ node.data.text }}
          </button></template
        >
        <template #node-table="node"><TableNode :name="node.data.name" /></template>
        <MiniMap
          v-if="units.length > 24"
          pannable
          zoomable
          :width="170"
          :height="104"
          aria-label="The whole sheet, small"
          node-color="var(--ink-3)"
          mask-color="color-mix(in srgb, var(--desk) 70%, transparent)"
        />
        <template #edge-stream="edge"><StreamEdge :id="edge.id" :data="edge.data" /></template>
      </VueFlow>
      <p
        v-if="stacked"
        role="status"
        class="absolute top-2 left-1/2 z-10 -translate-x-1/2 border border-rule bg-warnsoft px-3 py-1"
      >
        {{ stacked }} units lie on top of each other.
        <button v-if="plant.editable" class="link ml-1" @click="arrange">Arrange them</button>
      </p>
      <div v-if="!plant.document?.units?.length" class="pointer-events-none absolute inset-0 grid place-items-center">
        <div class="pointer-events-auto max-w-[380px] border border-dashed border-rule bg-paper px-6 py-5">
          <slot name="empty" />
        </div>
      </div>
    </div>
  </div>
</template>

<style>
.port {
  width: 9px;
  height: 9px;
  min-width: 0;
  min-height: 0;
  background: var(--paper);
  border: 1.3px solid var(--act);
  opacity: 0;
}
/* Heat and shafts by their form, not by colour alone. */
.port.heat {
  border-radius: 0;
  transform: translate(-50%, -50%) rotate(45deg) !important;
}
.port.shaft {
  border-radius: 0;
}
.vue-flow__node:hover .port,
.vue-flow__handle.connecting,
.vue-flow__handle:hover {
  opacity: 1;
}
.vue-flow__connection-path {
  stroke: var(--act);
  stroke-width: 1.6;
}
.vue-flow__node {
  cursor: pointer;
}
</style>
