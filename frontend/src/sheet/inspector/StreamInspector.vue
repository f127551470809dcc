<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import type { Stream, StreamResult } from '../../api/client'
import NumberUnit from '../../quantities/NumberUnit.vue'
import { numberText, unitText } from '../../quantities/format'
import { useNumberUnits } from '../../quantities/numberUnits'
import { inFormula, useAims } from '../../stores/aims'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'
import { useSheetActions } from '../actions'
import TagTitle from './TagTitle.vue'

const props = defineProps<{ stream: Stream }>()
const plant = usePlant()
const catalogue = useCatalogue()
const actions = useSheetActions()
const aims = useAims()
const numberUnits = useNumberUnits()
const sheet = useSheet()
const state = computed(() => plant.result?.streams[props.stream.tag])
const rows = computed(() => {
  const s = state.value
  if (!s) return []
  const list: [string, keyof StreamResult, string][] = [
    ['Temperature', 'temperature', 'temperature'],
    ['Pressure', 'pressure', 'pressure'],
    ['Vapour fraction', 'vapour_fraction', 'number'],
    ['Mole flow', 'mole_flow', 'mole_flow'],
    ['Mass flow', 'mass_flow', 'mass_flow'],
    ['Volume flow', 'volume_flow', 'volume_flow'],
    ['Molar mass', 'molar_mass', 'molar_mass'],
    ['Density', 'density', 'density'],
    ['Molar enthalpy', 'molar_enthalpy', 'molar_enthalpy'],
    ['Molar entropy', 'molar_entropy', 'molar_entropy'],
    ['Enthalpy flow', 'enthalpy_flow', 'power'],
  ]
  if (s.solids_fraction) list.splice(3, 0, ['Solids, by mass', 'solids_fraction', 'number'])
  if (s.money_flow != null) list.push(['Money flow', 'money_flow', 'money_flow'])
  const empty = s.mole_flow === 0
  return list.map(([name, what, kind]) => {
    const known = !empty || ['temperature', 'pressure'].includes(what) || what.endsWith('_flow')
    const value = known ? (s[what] as number | null | undefined) : null
    const unit = kind === 'number' ? '' : numberUnits.of(`${props.stream.tag}.${what}`, kind)
    return {
      name,
      what,
      kind,
      text: value == null ? '–' : numberText(kind === 'number' ? value : catalogue.shown(value, kind, unit)),
      unit: what === 'solids_fraction' ? 'kg/kg' : kind === 'number' ? 'mol/mol' : '',
    }
  })
})
const NAMES = { material: 'Stream', heat: 'Heat stream', shaft: 'Shaft' }
const kind = computed(() => plant.kindOf(props.stream))
const energy = computed(() => plant.result?.energies?.[props.stream.tag])
/** A negative power goes against the arrow. */
const energyRows = computed(() => {
  const list: [string, number | null | undefined, string][] = [
    ['Power', energy.value?.power, 'power'],
    ['Given off from', energy.value?.high, 'temperature'],
    ['Given off down to', energy.value?.low, 'temperature'],
  ]
  return list
    .filter(([, value]) => value != null)
    .map(([name, value, what]) => {
      const unit = catalogue.displayUnit(what, plant.unitSet)
      return { name, text: numberText(catalogue.shown(value!, what, unit)), unit: unitText(unit) }
    })
})
const phases = computed(() => state.value?.phases ?? [])
const remarks = computed(() => [...new Set(phases.value.flatMap((p) => p.notes ?? []))])
/** Transport properties and what else belongs to one phase alone. */
const phaseRows = computed(() => {
  const list: [string, 'density' | 'heat_capacity' | 'viscosity' | 'conductivity' | 'surface_tension', string][] = [
    ['Density', 'density', 'density'],
    ['Heat capacity', 'heat_capacity', 'molar_entropy'],
    ['Viscosity', 'viscosity', 'viscosity'],
    ['Conductivity', 'conductivity', 'conductivity'],
    ['Surface tension', 'surface_tension', 'surface_tension'],
  ]
  return list.map(([name, key, kind]) => {
    const unit = catalogue.displayUnit(kind, plant.unitSet)
    const texts = phases.value.map((p) => (p[key] == null ? '–' : numberText(catalogue.shown(p[key]!, kind, unit), 4)))
    return { name, unit: unitText(unit), texts }
  })
})
const ids = computed(() => (plant.document?.chemistry.components ?? []).map((c) => c.id))
const part = (fractions: Record<string, number> | null | undefined, id: string) => {
  const value = fractions?.[id]
  return value === undefined ? '–' : value !== 0 && value < 1e-4 ? value.toExponential(1) : value.toFixed(4)
}
/** How the composition is shown, and what formulas call it; as this person likes it on this computer. */
const BASES = [
  { key: 'mole_fractions', title: 'Mole fraction', name: 'mole_fraction' },
  { key: 'mass_fractions', title: 'Mass fraction', name: 'mass_fraction' },
  { key: 'mole_flows', title: 'Component flow', name: 'component_flow' },
] as const
const basis = useLocalStorage<(typeof BASES)[number]['key']>('wattaxis-composition', 'mole_fractions')
const chosen = computed(() => BASES.find((b) => b.key === basis.value) ?? BASES[0])
function overall(id: string): string {
  const s = state.value
  if (!s || (s.mole_flow === 0 && basis.value !== 'mole_flows')) return '–'
  if (basis.value !== 'mole_flows') return part(s[basis.value], id)
  const unit = catalogue.displayUnit('mole_flow', plant.unitSet)
  return `${numberText(catalogue.shown(s.mole_flows[id] ?? 0, 'mole_flow', unit))} ${unitText(unit)}`
}
</script>

<template>
  <div>
    <div class="flex items-start gap-3 border-b border-rule2 px-4 pt-2 pb-2">
      <TagTitle :tag="stream.tag" />
      <span class="pt-[5px] text-ink2"
        >{{ NAMES[kind] }}, {{ state?.phase ?? (energy ? 'calculated' : 'not calculated') }}</span
      >
      <button v-if="plant.editable" class="btn ml-auto" @click="actions.remove(stream.tag)">Remove</button>
    </div>
    <p class="px-4 pt-2 text-ink2">
      from <button class="link" @click="plant.selected = stream.source.unit">{{ stream.source.unit }}</button>
      {{ stream.source.port.replace('_', ' ') }} to
      <button class="link" @click="plant.selected = stream.target.unit">{{ stream.target.unit }}</button>
      {{ stream.target.port.replace('_', ' ') }}
    </p>
    <p v-if="plant.editable" class="flex gap-3 px-4 pt-2">
      <button v-if="state && state.vapour_fraction > 0" class="link" @click="sheet.open('compression', stream.tag)">
        Compress in stages
      </button>
      <button class="link" @click="plant.edit({ kind: 'reverse', tag: stream.tag })">Reverse</button>
      <button v-if="state" class="link" @click="sheet.open('scaling', stream.tag)">Scale to a year</button>
    </p>
    <dl v-if="energy" class="px-4 py-2" :class="plant.current ? '' : 'text-ink3 italic'">
      <div
        v-for="r in energyRows"
        :key="r.name"
        class="grid grid-cols-[1fr_74px_62px] gap-2 border-b border-rule2 py-[3px]"
      >
        <dt>{{ r.name }}</dt>
        <dd class="text-right">{{ r.text }}</dd>
        <dd class="text-ink2">{{ r.unit }}</dd>
      </div>
    </dl>
    <p v-else-if="!state" class="px-4 py-3 text-ink2">
      Not calculated yet: a unit upstream still needs values. The list below the sheet says which.
    </p>
    <template v-else>
      <dl class="px-4 py-2" :class="plant.current ? '' : 'text-ink3 italic'">
        <div
          v-for="r in rows"
          :key="r.name"
          class="group grid grid-cols-[1fr_74px_62px_26px] gap-2 border-b border-rule2 py-[3px]"
        >
          <dt>{{ r.name }}</dt>
          <dd class="text-right">{{ r.text }}</dd>
          <dd class="text-[12px] text-ink2">
            <NumberUnit
              v-if="r.kind !== 'number'"
              :kind="r.kind"
              :what="`${stream.tag}.${r.what}`"
              :title="r.name.toLowerCase()"
            />
            <template v-else>{{ r.unit }}</template>
          </dd>
          <dd class="text-right">
            <button
              v-if="plant.editable && r.text !== '–'"
              class="link text-[12px] opacity-0 group-hover:opacity-100 focus:opacity-100"
              :aria-label="`Aim at the ${r.name.toLowerCase()} of ${stream.tag}`"
              @click="aims.begin(`${inFormula(stream.tag)}.${r.what}`)"
            >
              Aim
            </button>
          </dd>
        </div>
      </dl>
      <table v-if="phases.length" class="mx-4 mb-3 w-[calc(100%-32px)]" data-test="phases">
        <thead>
          <tr class="border-b border-rule text-right">
            <th scope="col" class="head text-left">Phases</th>
            <th v-for="p in phases" :key="p.kind" scope="col" class="head">{{ p.kind }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in phaseRows" :key="row.name" class="border-b border-rule2 text-right">
            <td class="py-[3px] text-left">
              {{ row.name }} <span class="text-[12px] text-ink2">{{ row.unit }}</span>
            </td>
            <td v-for="(text, k) in row.texts" :key="k" :class="plant.current ? '' : 'text-ink3 italic'">{{ text }}</td>
          </tr>
        </tbody>
      </table>
      <details
        v-if="state.doubts?.length || state.doubts_upstream?.length"
        class="mx-4 mb-3 text-[12px] text-ink2"
        data-test="doubts"
      >
        <summary class="cursor-pointer">
          ◇ Depends on {{ state.doubts?.length ?? 0 }} {{ state.doubts?.length === 1 ? 'pair' : 'pairs' }} without
          measured data<template v-if="state.doubts_upstream?.length"
            >, upstream on {{ state.doubts_upstream.length }} more</template
          >
        </summary>
        <ul>
          <li v-for="text in state.doubts" :key="text">{{ text }}</li>
          <li v-for="text in state.doubts_upstream" :key="text">upstream: {{ text }}</li>
        </ul>
        <RouterLink class="link" :to="`/plant/${plant.variant?.id}/chemistry`">How far do they matter?</RouterLink>
      </details>
      <details v-if="remarks.length" class="mx-4 mb-3 text-[12px] text-ink2">
        <summary class="cursor-pointer">Estimated or out of range: {{ remarks.length }}</summary>
        <ul>
          <li v-for="text in remarks" :key="text">{{ text }}</li>
        </ul>
      </details>
      <table class="mx-4 mb-4 w-[calc(100%-32px)]">
        <thead>
          <tr class="border-b border-rule text-right">
            <th scope="col" class="head text-left">
              <select v-model="basis" class="input w-auto! py-[2px]! font-normal" aria-label="Composition as">
                <option v-for="b in BASES" :key="b.key" :value="b.key">{{ b.title }}</option>
              </select>
            </th>
            <th scope="col" class="head">overall</th>
            <th v-if="basis === 'mole_fractions'" scope="col" class="head">liquid</th>
            <th v-if="basis === 'mole_fractions'" scope="col" class="head">vapour</th>
            <td class="w-[28px]"></td>
          </tr>
        </thead>
        <tbody>
          <tr v-for="id in ids" :key="id" class="group border-b border-rule2 text-right">
            <th scope="row" class="py-[3px] text-left font-normal">{{ id }}</th>
            <td>{{ overall(id) }}</td>
            <td v-if="basis === 'mole_fractions'">{{ part(state.liquid_fractions, id) }}</td>
            <td v-if="basis === 'mole_fractions'">{{ part(state.vapour_fractions, id) }}</td>
            <td>
              <button
                v-if="plant.editable"
                class="link text-[12px] opacity-0 group-hover:opacity-100 focus:opacity-100"
                :aria-label="`Aim at the ${chosen.title.toLowerCase()} of ${id} in ${stream.tag}`"
                @click="aims.begin(`${inFormula(stream.tag)}.${chosen.name}[${id}]`)"
              >
                Aim
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>
