<script setup lang="ts">
import { VueFlow, useVueFlow, type Connection, type Edge, type Node, type NodeDragEvent } from '@vue-flow/core'
import { computed, shallowRef, watch } from 'vue'
import type { Stream, Unit } from '../api/client'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import { useSheetActions } from './actions'
import { labelPlace, routeAll, sideOf, type Box, type Wish } from './routing'
import StreamEdge from './StreamEdge.vue'
import { symbolOf } from './symbols'
import UnitNode from './UnitNode.vue'

const plant = usePlant()
const catalogue = useCatalogue()
const actions = useSheetActions()
const { fitView, onNodesInitialized } = useVueFlow('sheet')
const nodes = shallowRef<Node[]>([])
/** Live places while a unit is dragged; the document's otherwise. */
const dragged = shallowRef<Record<string, { x: number; y: number }>>({})

/** What the drawing depends on; values of units do not redraw it. */
const drawn = computed(() =>
  JSON.stringify([
    (plant.document?.units ?? []).map((u) => [u.tag, u.type, u.x, u.y]),
    (plant.document?.streams ?? []).map((s) => [s.tag, s.source, s.target]),
    plant.editable,
  ]),
)
const units = shallowRef<Unit[]>([])
const streams = shallowRef<Stream[]>([])
watch(
  drawn,
  () => {
    units.value = plant.document?.units ?? []
    streams.value = plant.document?.streams ?? []
    dragged.value = {}
    nodes.value = units.value.map((u) => ({
      id: u.tag,
      type: 'unit',
      position: { x: u.x ?? 0, y: u.y ?? 0 },
      data: { type: u.type },
      draggable: plant.editable,
      connectable: plant.editable,
    }))
  },
  { immediate: true },
)
/** The whole sheet, tag plates included: they hang below the symbols. */
function fit() {
  void fitView({ padding: 0.16, maxZoom: 1.15 })
}
onNodesInitialized(() => {
  if (!fitted) fit()
  fitted = true
})
let fitted = false

const placed = computed(() =>
  units.value.map((u) => ({
    unit: u,
    x: dragged.value[u.tag]?.x ?? u.x ?? 0,
    y: dragged.value[u.tag]?.y ?? u.y ?? 0,
    type: catalogue.type(u.type),
  })),
)
const edges = computed<Edge[]>(() => {
  const boxes: Box[] = placed.value.flatMap(({ x, y, type, unit }) => {
    const s = symbolOf(type?.symbol)
    const wide = 24 + 8 * unit.tag.length
    const plate =
      s.plate === 'beside'
        ? { left: x + s.width + 6, top: y + s.height - 32, right: x + s.width + 8 + wide, bottom: y + s.height - 10 }
        : {
            left: x + s.width / 2 - wide / 2,
            top: y + s.height + 5,
            right: x + s.width / 2 + wide / 2,
            bottom: y + s.height + 26,
          }
    return [{ left: x, top: y, right: x + s.width, bottom: y + s.height }, plate]
  })
  const wishes: Wish[] = []
  for (const stream of streams.value) {
    const from = portPoint(stream.source.unit, stream.source.port)
    const to = portPoint(stream.target.unit, stream.target.port)
    if (from && to)
      wishes.push({ id: stream.tag, from: from.point, fromSide: from.side, to: to.point, toSide: to.side })
  }
  const routes = routeAll(wishes, boxes)
  return streams.value.map((s) => {
    const points = routes.get(s.tag) ?? []
    return {
      id: s.tag,
      type: 'stream',
      source: s.source.unit,
      target: s.target.unit,
      sourceHandle: s.source.port,
      targetHandle: s.target.port,
      data: { points, label: labelPlace(points, s.tag, boxes) },
    }
  })
})
function portPoint(tag: string, key: string) {
  const found = placed.value.find((p) => p.unit.tag === tag)
  const port = found?.type?.ports.find((p) => p.key === key)
  if (!found || !port) return null
  const s = symbolOf(found.type?.symbol)
  return {
    point: { x: found.x + (port.place[0] ?? 0) * s.width, y: found.y + (port.place[1] ?? 0) * s.height },
    side: sideOf(port.place),
  }
}

function drag(event: NodeDragEvent) {
  dragged.value = Object.fromEntries(event.nodes.map((n) => [n.id, { ...n.position }]))
}
function drop(event: NodeDragEvent) {
  const places: Record<string, [number, number]> = {}
  for (const node of event.nodes) {
    const old = plant.unit(node.id)
    const next: [number, number] = [Math.round(node.position.x / 5) * 5, Math.round(node.position.y / 5) * 5]
    if (old && (old.x !== next[0] || old.y !== next[1])) places[node.id] = next
  }
  if (Object.keys(places).length) void plant.edit({ kind: 'move', places })
}
function connect(link: Connection) {
  if (!link.sourceHandle || !link.targetHandle) return
  void actions.join(
    { unit: link.source, port: link.sourceHandle, title: '' },
    { unit: link.target, port: link.targetHandle, title: '' },
  )
}
defineExpose({ fit })
</script>

<template>
  <div class="relative h-full" data-test="sheet">
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
      @node-click="plant.selected = $event.node.id"
      @edge-click="plant.selected = $event.edge.id"
      @pane-click="plant.selected = null"
      @node-drag="drag"
      @node-drag-stop="drop"
      @connect="connect"
    >
      <template #node-unit="node"><UnitNode :id="node.id" :data="node.data" /></template>
      <template #edge-stream="edge"><StreamEdge :id="edge.id" :data="edge.data" /></template>
    </VueFlow>
    <div v-if="!plant.document?.units?.length" class="pointer-events-none absolute inset-0 grid place-items-center">
      <div class="pointer-events-auto max-w-[380px] border border-dashed border-rule bg-paper px-6 py-5">
        <slot name="empty" />
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
