<script setup lang="ts">
import { refDebounced, useEventListener } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import { inField, provideCommands, type Command } from './commands'
import Palette from './Palette.vue'
import QuarrelDialog from './QuarrelDialog.vue'
import Shortcuts from './Shortcuts.vue'
import UnitsDialog from './UnitsDialog.vue'
import { useTheme } from './theme'

const route = useRoute()
const router = useRouter()
const plant = usePlant()
const catalogue = useCatalogue()
const { dark, toggle } = useTheme()
const palette = ref(false)
const paletteStart = ref('')
const shortcuts = ref(false)
const units = ref(false)
const missing = ref('')
const stages = [
  { key: 'chemistry', title: 'Chemistry' },
  { key: 'sheet', title: 'Sheet' },
  { key: 'studies', title: 'Studies' },
  { key: 'compare', title: 'Compare' },
]

watch(
  () => route.params.id,
  async (id) => {
    if (!id) return
    await catalogue.load()
    missing.value = (await plant.open(Number(id))) ? '' : plant.notice
  },
  { immediate: true },
)
onBeforeUnmount(() => plant.close())

const go = (stage: string) => router.push(`/plant/${route.params.id}/${stage}`)
/** The calculation of what is on the page was stopped before its end. */
const stopped = computed(
  () => plant.answer?.kind === 'stopped' && plant.answer.revision === plant.revision && !plant.solving,
)
/** It takes longer than anybody should watch without a way out. */
const slow = refDebounced(
  computed(() => !plant.current && !stopped.value && plant.answer?.kind !== 'failed' && !!plant.document),
  800,
)
const status = computed(() => {
  if (!plant.connected) return 'connection lost, trying again'
  if (plant.answer?.kind === 'failed' && plant.answer.revision === plant.revision) return 'calculation ended'
  if (stopped.value) return 'stopped'
  if (!plant.current) return 'calculating'
  if (!plant.result?.complete) return plant.document?.units?.length ? 'incomplete' : 'empty sheet'
  return `in date, ${(plant.answer?.seconds ?? 0).toFixed(3)} s`
})
const statusMark = computed(() => (plant.current && plant.result?.complete ? 'full' : plant.current ? 'open' : 'stale'))

function openPalette(start = '') {
  paletteStart.value = start
  palette.value = true
}
/** The guide at the place that fits the page. */
function help() {
  window.open(`/help/guide#${route.path.includes('/chemistry') ? 'chemistry' : 'sheet'}`, 'wattaxis-help')
}
function download(path: string) {
  const link = window.document.createElement('a')
  link.href = `/api/variants/${plant.variant?.id}/${path}`
  link.download = ''
  link.click()
}
const commands = (): Command[] => [
  ...stages.map((s, k) => ({
    id: 'go-' + s.key,
    title: s.title,
    group: 'Go to',
    keys: String(k + 1),
    run: () => go(s.key),
  })),
  { id: 'go-data', title: 'Data and fits', group: 'Go to', run: () => go('chemistry/data') },
  { id: 'go-diagrams', title: 'Diagrams', group: 'Go to', run: () => go('chemistry/diagrams') },
  { id: 'projects', title: 'Projects', group: 'Go to', run: () => router.push('/') },
  ...(plant.variant?.undo
    ? [
        {
          id: 'undo',
          title: `Undo ${plant.variant.undo}`,
          group: 'Edit',
          keys: 'Ctrl Z',
          run: () => plant.step('undo'),
        },
      ]
    : []),
  ...(plant.variant?.redo
    ? [
        {
          id: 'redo',
          title: `Redo ${plant.variant.redo}`,
          group: 'Edit',
          keys: 'Ctrl Y',
          run: () => plant.step('redo'),
        },
      ]
    : []),
  {
    id: 'json',
    title: 'Document as JSON',
    also: ['save', 'export'],
    group: 'Download',
    run: () => download('document.json'),
  },
  { id: 'csv', title: 'Stream table as CSV', also: ['export'], group: 'Download', run: () => download('streams.csv') },
  {
    id: 'xlsx',
    title: 'Workbook of streams, units, assumptions (XLSX)',
    also: ['export', 'spreadsheet'],
    group: 'Download',
    run: () => download('streams.xlsx'),
  },
  { id: 'units', title: 'Custom unit sets', group: 'Show units', run: () => (units.value = true) },
  ...plant.unitSets.map((name) => ({
    id: 'units-' + name,
    title: name,
    group: 'Show units',
    run: () => plant.edit({ kind: 'set_unit_set', name }),
  })),
  { id: 'theme', title: dark.value ? 'Light theme' : 'Dark theme', group: 'Look', run: toggle },
  { id: 'help', title: 'Help on this page', group: 'Help', keys: 'F1', run: help },
  { id: 'keys', title: 'All keys', group: 'Help', keys: '?', run: () => (shortcuts.value = true) },
]
/** The set of the plant, and then of nobody alone; the last entry opens the sets of one's own. */
function chooseUnits(event: Event) {
  const select = event.target as HTMLSelectElement
  const name = select.value
  select.value = plant.unitSet
  if (name === '…') {
    units.value = true
    return
  }
  plant.ownUnits = ''
  void plant.edit({ kind: 'set_unit_set', name })
}
onBeforeUnmount(provideCommands(commands))

useEventListener('keydown', (event: KeyboardEvent) => {
  const control = event.ctrlKey || event.metaKey
  if (control && !inField(event) && event.key.toLowerCase() === 'z') {
    event.preventDefault()
    void plant.step(event.shiftKey ? 'redo' : 'undo')
  } else if (control && !inField(event) && event.key.toLowerCase() === 'y') {
    event.preventDefault()
    void plant.step('redo')
  } else if (control && event.key.toLowerCase() === 'k') {
    event.preventDefault()
    openPalette()
  } else if (!control && !event.altKey && !inField(event)) {
    if (event.key === 'F1') {
      event.preventDefault()
      help()
    } else if (event.key === '/') {
      event.preventDefault()
      openPalette()
    } else if (event.key === '?') shortcuts.value = true
    else if (event.key === '1') void go('chemistry')
    else if (event.key === '2') void go('sheet')
    else if (event.key.toLowerCase() === 'a' && route.path.endsWith('/sheet')) {
      event.preventDefault()
      openPalette('Add ')
    } else if (event.key.toLowerCase() === 'c' && route.path.endsWith('/sheet')) {
      event.preventDefault()
      openPalette('Connect ')
    } else if (event.key.toLowerCase() === 'i' && route.path.endsWith('/sheet') && plant.stream(plant.selected)) {
      event.preventDefault()
      openPalette('Insert ')
    }
  }
})
</script>

<template>
  <div
    class="grid h-screen grid-cols-[minmax(0,1fr)] grid-rows-[44px_auto_minmax(0,1fr)] bg-paper"
    :data-revision="plant.revision"
  >
    <header class="flex items-center gap-3 border-b border-rule px-3 whitespace-nowrap">
      <RouterLink to="/" class="font-semibold tracking-wide">Wattaxis</RouterLink>
      <span
        class="max-w-[190px] min-w-[60px] shrink truncate text-ink2"
        :title="`${plant.variant?.project} / ${plant.variant?.name}`"
      >
        {{ plant.variant?.project }} / <b class="font-medium text-ink">{{ plant.variant?.name }}</b>
      </span>
      <nav aria-label="Stages" class="flex shrink-0">
        <RouterLink
          v-for="stage in stages"
          :key="stage.key"
          :to="`/plant/${route.params.id}/${stage.key}`"
          class="px-[7px] py-1 text-ink2"
          active-class="font-semibold text-ink! shadow-[inset_0_-2px_0_var(--act)]"
          >{{ stage.title }}</RouterLink
        >
      </nav>
      <div class="ml-auto flex items-center gap-[6px]">
        <button
          class="quiet"
          :disabled="!plant.variant?.undo"
          :title="plant.variant?.undo ? `Undo ${plant.variant.undo}` : 'Nothing to undo'"
          @click="plant.step('undo')"
        >
          Undo
        </button>
        <button
          class="quiet"
          :disabled="!plant.variant?.redo"
          :title="plant.variant?.redo ? `Redo ${plant.variant.redo}` : 'Nothing to redo'"
          @click="plant.step('redo')"
        >
          Redo
        </button>
        <button class="quiet" @click="openPalette()">
          Find or do <kbd class="tag rounded border border-rule px-1 text-[11px] text-ink2">/</kbd>
        </button>
        <button class="quiet" title="Help on this page (F1)" @click="help">Help</button>
        <select
          class="input w-[84px]! px-[4px]! py-[3px]!"
          name="units"
          aria-label="Units"
          title="Units of the plant"
          :value="plant.unitSet"
          @change="chooseUnits"
        >
          <option v-for="name in plant.unitSets" :key="name" :disabled="!plant.editable">{{ name }}</option>
          <option value="…">custom sets…</option>
        </select>
        <span role="status" class="flex w-[112px] items-center gap-[6px] truncate text-ink2" data-test="status">
          <svg width="12" height="12" aria-hidden="true">
            <circle
              cx="6"
              cy="6"
              r="4.5"
              :fill="statusMark === 'full' ? 'var(--ink)' : 'none'"
              stroke="var(--ink)"
              :stroke-dasharray="statusMark === 'stale' ? '2 2' : ''"
            />
          </svg>
          {{ status }}
        </span>
        <button v-if="slow && !plant.current && plant.editable" class="btn" @click="plant.calculate('halt')">
          Stop
        </button>
        <button
          v-else-if="(stopped || status === 'calculation ended') && plant.editable"
          class="btn"
          @click="plant.calculate('calculate')"
        >
          Go on
        </button>
      </div>
    </header>
    <div>
      <p
        v-if="plant.notice && plant.variant"
        role="alert"
        class="flex items-center gap-3 border-b border-rule bg-warnsoft px-4 py-2"
      >
        <span class="flex-1">{{ plant.notice }}</span>
        <button class="btn" @click="plant.notice = ''">Dismiss</button>
      </p>
      <p v-if="stopped" role="status" class="border-b border-rule bg-desk px-4 py-2">
        The calculation was stopped. What it had reached is kept; everything else is from before and marked as out of
        date.
      </p>
      <p v-if="plant.answer?.kind === 'failed'" role="alert" class="border-b border-rule bg-warnsoft px-4 py-2">
        {{ plant.answer.text }}
      </p>
    </div>
    <div v-if="missing" class="p-8">
      <p>{{ missing }}</p>
      <RouterLink class="link" to="/">To the projects</RouterLink>
    </div>
    <RouterView v-else-if="plant.document && catalogue.data" />
    <p v-else class="p-8 text-ink2">Opening…</p>
    <QuarrelDialog />
    <Palette v-model:open="palette" :start="paletteStart" />
    <UnitsDialog :open="units" @close="units = false" />
    <Shortcuts v-model:open="shortcuts" />
  </div>
</template>
