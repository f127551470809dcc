<script setup lang="ts">
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
import { useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Stream, StreamResult, Unit } from '../../api/client'
import { rowTexts, unitText } from '../../quantities/format'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'
import { liesIn } from '../canvas/areaSheet'
import type { Placed } from '../canvas/drawing'
import { COLUMN, useColumns } from './columns'

const plant = usePlant()
const catalogue = useCatalogue()
const sheet = useSheet()
const basis = ref<'mole_fractions' | 'mass_fractions' | 'mole_flows'>('mole_fractions')
const copied = ref('')
/** Which streams have a column: all, those that cross the border of the plant, those at what is chosen, or those of an area. */
const which = ref('all')
const areas = computed(() => plant.document?.areas ?? [])
/** The units of the area that is asked for. */
const inArea = computed(() => {
  const area = areas.value.find((a) => which.value === `area ${a.name}`)
  const at = (u: Unit): Placed => ({ unit: u, type: catalogue.type(u.type), x: u.x ?? 0, y: u.y ?? 0 })
  return area && new Set((plant.document?.units ?? []).filter((u) => liesIn(area, at(u))).map((u) => u.tag))
})
const streams = computed(() => {
  const all = plant.document?.streams ?? []
  const ends = (s: Stream) => [s.source.unit, s.target.unit]
  const border = new Set(
    (plant.document?.units ?? []).filter((u) => catalogue.type(u.type)?.family === 'boundary').map((u) => u.tag),
  )
  const asked = all.filter((s) => {
    if (which.value === 'border') return ends(s).some((tag) => border.has(tag))
    if (which.value === 'chosen') return s.tag === plant.selected || ends(s).some((tag) => sheet.chosen.includes(tag))
    return inArea.value ? ends(s).some((tag) => inArea.value!.has(tag)) : true
  })
  // Heat and shafts have but their power and come last.
  return [
    ...asked.filter((s) => plant.kindOf(s) === 'material'),
    ...asked.filter((s) => plant.kindOf(s) !== 'material'),
  ]
})
/** Rows that are left out, as this person likes it on this computer. */
const hidden = useLocalStorage<string[]>('wattaxis-stream-rows-hidden', [
  'Molar entropy',
  'Molar mass',
  'Liquid',
  'Vapour',
])
const ids = computed(() => (plant.document?.chemistry.components ?? []).map((c) => c.id))
type Row = { title: string; unit: string; texts: string[]; numbers: (number | null)[]; group?: string }

/** What a stream without a flow has; the rest is nobody's. */
const OF_EMPTY = new Set(['Temperature', 'Pressure', 'Mole flow', 'Mass flow', 'Volume flow', 'Enthalpy flow'])

function numeric(title: string, kind: string, pick: (s: StreamResult) => number | null | undefined): Row {
  const unit = kind === 'number' ? '' : catalogue.displayUnit(kind, plant.unitSet)
  const numbers = streams.value.map((s) => {
    const state = plant.result?.streams[s.tag]
    const value = state && !(state.mole_flow === 0 && !OF_EMPTY.has(title)) ? pick(state) : null
    return value == null ? null : kind === 'number' ? value : catalogue.shown(value, kind, unit)
  })
  return { title, unit: kind === 'number' ? 'mol/mol' : unitText(unit), texts: rowTexts(numbers), numbers }
}
const phaseOf = (s: StreamResult | undefined) => (!s ? '–' : s.mole_flow === 0 ? 'no flow' : s.phase)
const rows = computed<Row[]>(() => {
  const phase = streams.value.map((s) => phaseOf(plant.result?.streams[s.tag]))
  const list: Row[] = [
    numeric('Temperature', 'temperature', (s) => s.temperature),
    numeric('Pressure', 'pressure', (s) => s.pressure),
    {
      title: 'Phase',
      unit: '',
      texts: phase.map((p) =>
        p.replace('liquid and vapour', 'both').replace('liquid and second liquid', 'two liquids'),
      ),
      numbers: [],
    },
    numeric('Vapour fraction', 'number', (s) => s.vapour_fraction),
    numeric('Mole flow', 'mole_flow', (s) => s.mole_flow),
    numeric('Mass flow', 'mass_flow', (s) => s.mass_flow),
    numeric('Volume flow', 'volume_flow', (s) => s.volume_flow),
    numeric('Enthalpy flow', 'power', (s) => s.enthalpy_flow),
    numeric('Molar enthalpy', 'molar_enthalpy', (s) => s.molar_enthalpy),
    numeric('Molar entropy', 'molar_entropy', (s) => s.molar_entropy),
    numeric('Molar mass', 'molar_mass', (s) => s.molar_mass),
    numeric('Density', 'density', (s) => s.density),
  ]
  const some = (pick: (s: StreamResult) => unknown) => Object.values(plant.result?.streams ?? {}).some(pick)
  if (some((s) => s.solids_fraction))
    list.push({ ...numeric('Solids', 'number', (s) => s.solids_fraction), unit: 'kg/kg' })
  if (some((s) => s.money_flow != null)) list.push(numeric('Money flow', 'money_flow', (s) => s.money_flow))
  if (streams.value.some((s) => plant.kindOf(s) !== 'material')) list.push(power())
  if (some((s) => s.doubts?.length || s.doubts_upstream?.length)) list.push(doubts())
  for (const id of ids.value) {
    const group = 'Composition'
    if (basis.value === 'mole_flows') list.push({ ...numeric(id, 'mole_flow', (s) => s.mole_flows[id]), group })
    else
      list.push({
        ...numeric(id, 'number', (s) => s[basis.value as 'mole_fractions'][id]),
        unit: basis.value === 'mole_fractions' ? 'mol/mol' : 'kg/kg',
        group,
      })
  }
  for (const [group, key] of PHASES)
    for (const id of ids.value)
      list.push({ ...numeric(`${id}, ${group.toLowerCase()}`, 'number', (s) => s[key]?.[id]), group })
  return list
})
/** Composition of each phase, mole fractions. */
const PHASES = [
  ['Liquid', 'liquid_fractions'],
  ['Vapour', 'vapour_fractions'],
] as const
function power(): Row {
  const unit = catalogue.displayUnit('power', plant.unitSet)
  const numbers = streams.value.map((s) => {
    const energy = plant.result?.energies?.[s.tag]
    return energy ? catalogue.shown(energy.power, 'power', unit) : null
  })
  return { title: 'Heat or shaft power', unit: unitText(unit), texts: rowTexts(numbers), numbers }
}
/** On how many pairs that nobody measured a stream rests by itself, and on how many more by what it comes from. */
function doubts(): Row {
  const texts = streams.value.map((s) => {
    const state = plant.result?.streams[s.tag]
    if (!state) return '–'
    const [own, more] = [state.doubts?.length ?? 0, state.doubts_upstream?.length ?? 0]
    return own || more ? `◇ ${own}${more ? ` + ${more}` : ''}` : '0'
  })
  return { title: 'Pairs not measured', unit: 'own + upstream', texts, numbers: [] }
}
const named = (r: Row) => r.group ?? r.title
const offered = computed(() => [...new Set(rows.value.map(named))])
const shown = computed(() => rows.value.filter((r) => !hidden.value.includes(named(r))))
function show(name: string, on: boolean) {
  hidden.value = on ? hidden.value.filter((n) => n !== name) : [...hidden.value, name]
}
const box = ref<HTMLElement | null>(null)
const columns = useColumns(
  box,
  computed(() => streams.value.length),
)
async function copy() {
  const head = ['Stream', 'Unit', ...streams.value.map((s) => s.tag)]
  const lines = shown.value.map((r) => [
    r.title,
    r.unit,
    ...(r.numbers.length ? r.numbers.map((n) => (n === null ? '' : String(n))) : r.texts),
  ])
  try {
    await navigator.clipboard.writeText([head, ...lines].map((cells) => cells.join('\t')).join('\n'))
    copied.value = 'Copied; paste it into a spreadsheet.'
  } catch {
    copied.value = 'The browser did not allow copying; use CSV or XLSX.'
  }
  window.setTimeout(() => (copied.value = ''), 4000)
}
</script>

<template>
  <div class="flex h-full min-h-0 flex-col">
    <div class="flex items-center gap-2 px-4 py-1">
      <label class="flex items-center gap-2 text-ink2">
        Composition as
        <select v-model="basis" class="input w-auto! py-[1px]!">
          <option value="mole_fractions">mole fraction</option>
          <option value="mass_fractions">mass fraction</option>
          <option value="mole_flows">mole flow</option>
        </select>
      </label>
      <label class="flex items-center gap-2 text-ink2">
        Streams
        <select v-model="which" class="input w-auto! py-[1px]!" name="which-streams">
          <option value="all">all</option>
          <option value="border">in and out of the plant</option>
          <option value="chosen">at what is chosen</option>
          <option v-for="a in areas" :key="a.name" :value="`area ${a.name}`">of the area {{ a.name }}</option>
        </select>
      </label>
      <Popover class="relative">
        <PopoverButton class="btn py-[1px]!">Rows</PopoverButton>
        <PopoverPanel
          class="absolute bottom-full left-0 z-20 mb-1 w-[230px] border border-rule bg-paper px-3 py-2 shadow-lg"
        >
          <label v-for="name in offered" :key="name" class="flex items-center gap-2">
            <input
              type="checkbox"
              :checked="!hidden.includes(name)"
              @change="show(name, ($event.target as HTMLInputElement).checked)"
            />
            {{ ['Liquid', 'Vapour'].includes(name) ? `${name}, mole fractions` : name }}
          </label>
        </PopoverPanel>
      </Popover>
      <span role="status" class="text-ink2">{{ copied }}</span>
      <span class="ml-auto flex gap-2">
        <button class="btn py-[1px]!" :disabled="!plant.result" @click="copy">Copy</button>
        <a class="btn py-[1px]!" :href="`/api/variants/${plant.variant?.id}/streams.csv`" download>CSV</a>
        <a
          class="btn py-[1px]!"
          title="A workbook of streams, units with their basis, assumptions and findings"
          :href="`/api/variants/${plant.variant?.id}/streams.xlsx`"
          download
          >XLSX</a
        >
      </span>
    </div>
    <p v-if="!streams.length" class="px-4 py-2 text-ink2">
      {{
        which === 'all'
          ? 'No streams yet. Connect two units and their stream appears here.'
          : 'No such stream. Choose units or a stream on the sheet, or show all.'
      }}
    </p>
    <div v-else ref="box" class="min-h-0 flex-1 overflow-auto" @scroll="columns.look">
      <table
        class="w-full border-collapse text-[12.5px] [&_tr>*:last-child]:pr-4"
        :aria-colcount="streams.length + 2"
        :class="columns.some.value ? 'table-fixed' : ''"
        :style="columns.some.value ? { width: `${columns.whole.value}px` } : {}"
      >
        <colgroup v-if="columns.some.value">
          <col style="width: 170px" />
          <col style="width: 70px" />
          <col v-if="columns.before.value" :style="{ width: `${columns.before.value}px` }" />
          <col v-for="k in columns.shown(streams).length" :key="k" :style="{ width: `${COLUMN}px` }" />
          <col v-if="columns.after.value" :style="{ width: `${columns.after.value}px` }" />
        </colgroup>
        <thead class="sticky top-0 z-10 bg-paper">
          <tr>
            <th class="head sticky left-0 border-b border-rule bg-paper px-2 py-[3px] pl-4 text-left" scope="col">
              Stream
            </th>
            <th scope="col" class="border-b border-rule"><span class="sr-only">Unit</span></th>
            <td v-if="columns.before.value" />
            <th
              v-for="(s, k) in columns.shown(streams)"
              :key="s.tag"
              :aria-colindex="columns.first.value + k + 3"
              scope="col"
              class="border-b border-rule px-2 py-[3px] text-right"
              :class="plant.selected === s.tag ? 'bg-actsoft' : ''"
            >
              <button class="tag whitespace-nowrap text-ink2" @click="plant.selected = s.tag">{{ s.tag }}</button>
            </th>
            <td v-if="columns.after.value" />
          </tr>
        </thead>
        <tbody :class="plant.current ? '' : 'text-ink3 italic transition-colors delay-150'" data-test="stream-rows">
          <tr v-for="r in shown" :key="r.title">
            <th
              scope="row"
              class="sticky left-0 border-b border-rule2 bg-paper px-2 py-[2px] pl-4 text-left font-normal whitespace-nowrap text-ink2"
            >
              {{ r.title }}
            </th>
            <td class="border-b border-rule2 pr-3 text-[11.5px] whitespace-nowrap text-ink2">{{ r.unit }}</td>
            <td v-if="columns.before.value" />
            <td
              v-for="(t, k) in columns.shown(r.texts)"
              :key="k"
              class="border-b border-rule2 px-2 py-[2px] text-right whitespace-nowrap"
              :class="plant.selected === columns.shown(streams)[k]?.tag ? 'bg-actsoft' : ''"
            >
              {{ t }}
            </td>
            <td v-if="columns.after.value" />
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>
