<script setup lang="ts">
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { computed, nextTick, onBeforeUnmount, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { inField, provideCommands, type Command } from '../app/commands'
import Splitter from '../app/Splitter.vue'
import type { UnitType } from '../api/client'
import { useAims } from '../stores/aims'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import { useSheet } from '../stores/sheet'
import { useSheetActions } from './actions'
import AddDialog from './dialogs/AddDialog.vue'
import AimDialog from './dialogs/AimDialog.vue'
import Drawer from './drawer/Drawer.vue'
import Inspector from './inspector/Inspector.vue'
import PinStrip from './PinStrip.vue'
import SheetCanvas from './canvas/SheetCanvas.vue'
import CompressionDialog from './dialogs/CompressionDialog.vue'
import ScalingDialog from './dialogs/ScalingDialog.vue'
import KitsDialog from './dialogs/KitsDialog.vue'
import PaperDialog from './dialogs/PaperDialog.vue'
import SheetStrip from './canvas/SheetStrip.vue'
import ShownDialog from './dialogs/ShownDialog.vue'
import TableDialog from './dialogs/TableDialog.vue'

const plant = usePlant()
const catalogue = useCatalogue()
const actions = useSheetActions()
const aims = useAims()
const sheet = useSheet()
const router = useRouter()
const route = useRoute()
const canvas = ref<InstanceType<typeof SheetCanvas> | null>(null)
const page = ref<HTMLElement | null>(null)

/** How much room inspector and drawer have, as this person likes it on this computer. */
const room = useLocalStorage(
  'wattaxis-room',
  { inspector: 326, inspectorFolded: false, drawer: 244, drawerFolded: false },
  { mergeDefaults: true },
)
const layout = computed(() => ({
  gridTemplateColumns: `minmax(0, 1fr) 0px ${room.value.inspectorFolded ? 22 : room.value.inspector}px`,
  gridTemplateRows: `minmax(0, 1fr) 0px ${room.value.drawerFolded ? 34 : room.value.drawer}px`,
}))
watch([() => room.value.drawerFolded, () => room.value.inspectorFolded], () =>
  window.setTimeout(() => canvas.value?.fit(), 60),
)
async function focusField(field: string | null) {
  room.value.inspectorFolded = false
  await nextTick()
  const inspector = page.value?.querySelector('[aria-label=Inspector]')
  const row = field?.replace(/\[(.*)\]$/, '.$1') ?? null
  const key = ['composition', 'shares'].includes(row ?? '') ? `${row}.` : row
  const inside = ['input', 'select', 'button'].map((of) => `[data-field^="${CSS.escape(key ?? '')}"] ${of}`)
  const target = key && !key.startsWith('port:') ? inspector?.querySelector<HTMLElement>(inside.join(', ')) : null
  ;(target ?? inspector?.querySelector<HTMLInputElement>('input:not([type=checkbox])'))?.focus()
}
async function go(place: string, field: string | null) {
  if (place === 'Chemistry') {
    await router.push(`/plant/${plant.variant?.id}/chemistry`)
    return
  }
  plant.selected = place
  await focusField(field)
}
/** An area as a sheet of its own has an address, so that one comes back from it. */
const showArea = (name: string) => router.push({ query: name ? { area: name } : {} })
watch(
  () => [route.query.area, plant.document?.areas] as const,
  ([name, areas]) => (sheet.area = areas?.some((a) => a.name === name) ? String(name) : ''),
  { immediate: true },
)
/** Whether a unit has profiles, and a page with them. */
const hasPage = (tag: string | null) => !!plant.result?.units[tag ?? '']?.profiles?.length
const openPage = (tag: string) => router.push(`/plant/${plant.variant?.id}/sheet/unit/${encodeURIComponent(tag)}`)
async function rename() {
  room.value.inspectorFolded = false
  await nextTick()
  page.value?.querySelector<HTMLButtonElement>('[aria-label=Inspector] button.tag')?.click()
}
function chooseAll() {
  sheet.choose((plant.document?.units ?? []).map((u) => u.tag))
}
/** A new unit comes into sight. */
async function addType(type: UnitType) {
  await actions.add(type)
  canvas.value?.fit()
}
async function addFirst(type: string) {
  const found = catalogue.type(type)
  if (found) await actions.add(found)
  await focusField(null)
}

const commands = (): Command[] => {
  const tag = plant.selected
  const list: Command[] = []
  if (plant.editable) {
    list.push({ id: 'aim', title: 'Aim at a value', group: 'Edit', run: () => aims.begin('') })
    for (const t of catalogue.data?.unit_types ?? [])
      list.push({
        id: 'add-' + t.type,
        title: t.title,
        also: t.also,
        group: 'Add',
        keys: 'A',
        run: () => addType(t),
      })
    const from = actions.freePorts('out', tag && plant.unit(tag) ? tag : undefined)
    const to = actions.freePorts('in')
    for (const a of from)
      for (const b of to)
        if (a.unit !== b.unit && a.kind === b.kind)
          list.push({
            id: `join-${a.unit}-${a.port}-${b.unit}-${b.port}`,
            title: `${a.unit} ${a.title.toLowerCase()} to ${b.unit}`,
            group: 'Connect',
            keys: 'C',
            run: () => actions.join(a, b),
          })
    if (tag) {
      list.push({ id: 'rename', title: `Rename ${tag}`, group: 'Edit', keys: 'R', run: rename })
      list.push({ id: 'remove', title: `Remove ${tag}`, group: 'Edit', keys: 'Delete', run: () => actions.remove(tag) })
    }
    list.push(...lineCommands(tag))
  }
  for (const u of plant.document?.units ?? [])
    list.push({
      id: 'find-' + u.tag,
      title: `${u.tag}, ${catalogue.type(u.type)?.title.toLowerCase()}`,
      group: 'Find',
      run: () => (plant.selected = u.tag),
    })
  for (const s of plant.document?.streams ?? [])
    list.push({
      id: 'find-' + s.tag,
      title: `${s.tag}, from ${s.source.unit} to ${s.target.unit}`,
      group: 'Find',
      run: () => (plant.selected = s.tag),
    })
  if (tag && hasPage(tag))
    list.push({ id: 'page', title: `Open the page of ${tag}`, group: 'Show', keys: 'P', run: () => openPage(tag) })
  const folding = (what: string, folded: boolean) => `${folded ? 'Show' : 'Fold'} the ${what}`
  list.push({
    id: 'drawer',
    title: folding('drawer', room.value.drawerFolded),
    group: 'Show',
    keys: 'D',
    run: () => (room.value.drawerFolded = !room.value.drawerFolded),
  })
  list.push({
    id: 'inspector',
    title: folding('inspector', room.value.inspectorFolded),
    group: 'Show',
    keys: 'V',
    run: () => (room.value.inspectorFolded = !room.value.inspectorFolded),
  })
  if (sheet.area) list.push({ id: 'whole', title: 'Whole plant', group: 'Show', run: () => showArea('') })
  for (const area of plant.document?.areas ?? [])
    if (area.name !== sheet.area)
      list.push({
        id: 'area-' + area.name,
        title: `Open area ${area.name}`,
        group: 'Show',
        run: () => showArea(area.name),
      })
  list.push({ id: 'fit', title: 'Whole sheet', group: 'Show', keys: 'F', run: () => canvas.value?.fit() })
  return list
}
/** What can be done with what is chosen: along its line, or with all of it. */
function lineCommands(tag: string | null): Command[] {
  const list: Command[] = []
  const add = (title: string, run: () => unknown, keys?: string) =>
    list.push({ id: title, title, group: 'Edit', keys, run })
  const line = plant.stream(tag)
  if (tag && line) {
    for (const t of plant.kindOf(line) === 'material' ? actions.inLine() : [])
      list.push({
        id: 'insert-' + t.type,
        title: `${t.title} into ${tag}`,
        also: t.also.map((other) => `${other} into ${tag}`),
        group: 'Insert',
        keys: 'I',
        run: () => actions.insert(t, tag),
      })
    add(`Reverse ${tag}`, () => plant.edit({ kind: 'reverse', tag }))
    if (plant.kindOf(line) === 'material') add(`Compress ${tag} in stages`, () => sheet.open('compression', tag))
    for (const other of actions.siblings(tag))
      add(`Swap the outlets of ${tag} and ${other}`, () =>
        plant.edit({ kind: 'swap_outlets', first: tag, second: other }),
      )
  }
  if (tag && plant.unit(tag)) {
    add(`Remove ${tag} and reconnect its stream`, () => plant.edit({ kind: 'take_out', tag }), 'T')
    add('Copy', sheet.copy, 'Ctrl C')
    add('Duplicate', sheet.duplicate, 'Ctrl D')
    add('Mirror', () => plant.edit({ kind: 'flip', tags: sheet.chosen }), 'M')
    add('Turn by a quarter', () => plant.edit({ kind: 'turn', tags: sheet.chosen }), 'O')
  }
  add('Paste', sheet.paste, 'Ctrl V')
  add('Choose all units', chooseAll, 'Ctrl A')
  add('Arrange the sheet', () => canvas.value?.arrange(), 'L')
  add('Scale to a yearly production', () => sheet.open('scaling', tag && plant.result?.streams[tag] ? tag : ''))
  add('Kits', () => sheet.open('kits'), 'K')
  add('Note on the sheet', () => sheet.open('note'))
  add('Values beside units and streams', () => sheet.open('shown'))
  add('Table on the sheet', () => sheet.open('table'))
  for (const table of plant.document?.tables ?? []) add(`Table ${table.name}`, () => sheet.open('table', table.name))
  for (const area of plant.document?.areas ?? []) add(`Area ${area.name}`, () => sheet.open('area', area.name))
  for (const note of plant.document?.notes ?? []) add(`Note ${note.name}`, () => sheet.open('note', note.name))
  return list
}
onBeforeUnmount(provideCommands(commands))

function arrow(event: KeyboardEvent) {
  const way = event.key.replace('Arrow', '')
  const unit = plant.unit(plant.selected)
  if (event.shiftKey && unit && plant.editable) {
    const dx = way === 'Left' ? -20 : way === 'Right' ? 20 : 0
    const dy = way === 'Up' ? -20 : way === 'Down' ? 20 : 0
    void plant.edit({ kind: 'move', places: { [unit.tag]: [(unit.x ?? 0) + dx, (unit.y ?? 0) + dy] } })
    return
  }
  const units = plant.document?.units ?? []
  if (!units.length) return
  if (!plant.selected) plant.selected = units[0]!.tag
  else if (way === 'Left' || way === 'Right')
    plant.selected = actions.neighbour(plant.selected, way === 'Right') ?? plant.selected
  else {
    const here = units.findIndex((u) => u.tag === plant.selected)
    plant.selected = units[(here + (way === 'Down' ? 1 : units.length - 1)) % units.length]!.tag
  }
}
useEventListener('keydown', (event: KeyboardEvent) => {
  if (event.key === 'Escape' && !(event.target as HTMLElement | null)?.closest('[role=dialog]')) {
    const active = window.document.activeElement
    if (active instanceof HTMLElement && active.closest('input, select')) active.blur()
    else plant.selected = null
    return
  }
  if (inField(event) || event.altKey) return
  if (event.ctrlKey || event.metaKey) {
    const run = { c: sheet.copy, v: sheet.paste, d: sheet.duplicate, a: chooseAll }[event.key.toLowerCase()]
    if (!run || (!plant.editable && run !== sheet.copy) || window.getSelection()?.toString()) return
    event.preventDefault()
    void run()
    return
  }
  if (event.key.startsWith('Arrow') && !(event.target as HTMLElement | null)?.closest('[role=tablist]')) {
    event.preventDefault()
    arrow(event)
  } else if ((event.key === 'Delete' || event.key === 'Backspace') && plant.selected && plant.editable)
    void (sheet.chosen.length > 1 ? sheet.remove() : actions.remove(plant.selected))
  else if (event.key.toLowerCase() === 'm' && sheet.chosen.length && plant.editable)
    void plant.edit({ kind: 'flip', tags: sheet.chosen })
  else if (event.key.toLowerCase() === 'o' && sheet.chosen.length && plant.editable)
    void plant.edit({ kind: 'turn', tags: sheet.chosen })
  else if (event.key.toLowerCase() === 't' && plant.unit(plant.selected) && plant.editable)
    void plant.edit({ kind: 'take_out', tag: plant.selected! })
  else if (event.key.toLowerCase() === 'l' && plant.editable) void canvas.value?.arrange()
  else if (event.key.toLowerCase() === 'k' && plant.editable) sheet.open('kits')
  else if (event.key.toLowerCase() === 'r' && plant.selected) {
    event.preventDefault()
    void rename()
  } else if (event.key.toLowerCase() === 'd') room.value.drawerFolded = !room.value.drawerFolded
  else if (event.key.toLowerCase() === 'v') room.value.inspectorFolded = !room.value.inspectorFolded
  else if (event.key.toLowerCase() === 'p' && hasPage(plant.selected)) void openPage(plant.selected!)
  else if (event.key.toLowerCase() === 'f') canvas.value?.fit()
  else if (event.key === 'Enter' && plant.selected && !(event.target as HTMLElement | null)?.closest('button, a')) {
    event.preventDefault()
    void focusField(null)
  }
})
</script>

<template>
  <main ref="page" class="grid min-h-0" :style="layout">
    <h1 class="sr-only">Sheet of {{ plant.document?.title }}</h1>
    <div
      class="col-start-1 row-start-1 grid min-h-0 min-w-0 grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)_auto]"
    >
      <PinStrip />
      <SheetCanvas ref="canvas" @area="showArea">
        <template #empty>
          <h2 class="mb-1 text-[15px] font-semibold">An empty sheet</h2>
          <template v-if="!plant.document?.chemistry.components?.length">
            <p class="mb-3 text-ink2">First say what is in the plant: choose the components and a property model.</p>
            <RouterLink class="btn btn-main inline-block" :to="`/plant/${plant.variant?.id}/chemistry`"
              >Choose components</RouterLink
            >
          </template>
          <template v-else>
            <p class="mb-3 text-ink2">
              Put the first feed on it. Then press A with a unit selected: the next unit is added and connected.
            </p>
            <button class="btn btn-main" :disabled="!plant.editable" @click="addFirst('feed')">Add a feed</button>
          </template>
        </template>
      </SheetCanvas>
      <SheetStrip />
    </div>
    <Splitter
      v-model:size="room.inspector"
      v-model:folded="room.inspectorFolded"
      class="col-start-2 row-span-3 row-start-1"
      label="Width of the inspector"
      upright
      :least="280"
      :most="620"
    />
    <div class="col-start-3 row-span-3 row-start-1 grid min-h-0 min-w-0">
      <button
        v-if="room.inspectorFolded"
        class="border-l border-rule text-ink2"
        title="Show the inspector (V)"
        aria-label="Show the inspector"
        @click="room.inspectorFolded = false"
      >
        ‹
      </button>
      <Inspector v-show="!room.inspectorFolded" />
    </div>
    <Splitter
      v-model:size="room.drawer"
      v-model:folded="room.drawerFolded"
      class="col-start-1 row-start-2"
      label="Height of the drawer"
      :least="120"
      :most="560"
    />
    <Drawer v-model:folded="room.drawerFolded" class="col-start-1 row-start-3" @go="go" />
    <AimDialog />
    <AddDialog @add="addType" />
    <KitsDialog />
    <ShownDialog />
    <TableDialog />
    <PaperDialog />
    <CompressionDialog />
    <ScalingDialog />
  </main>
</template>
