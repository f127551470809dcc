<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { BankComponent, PlantComponent, Quantity, EditOf } from '../api/client'
import QuantityField from '../quantities/QuantityField.vue'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { useDrawing } from '../stores/drawing'
import { usePlant } from '../stores/plant'
import OwnCurve from './OwnCurve.vue'

/** A component of the plant with every constant and where it comes from: from the bank, or an own one. */
const props = defineProps<{ item: PlantComponent; bank: BankComponent | null }>()
const catalogue = useCatalogue()
const plant = usePlant()
const drawing = useDrawing()
const router = useRouter()
const OWN = [
  ['molar_mass', 'MW', 'Molar mass', 'molar_mass'],
  ['critical_temperature', 'Tc', 'Critical temperature', 'temperature'],
  ['critical_pressure', 'Pc', 'Critical pressure', 'pressure'],
  ['acentric_factor', 'omega', 'Acentric factor', 'number'],
  ['boiling_point', 'Tb', 'Normal boiling point', 'temperature'],
  ['formation_enthalpy', 'Hf', 'Enthalpy of formation, gas', 'molar_enthalpy'],
  ['entropy', 'S0', 'Entropy, gas, 298.15 K', 'molar_entropy'],
] as const
const OF_SOLIDS = [
  ['molar_mass', 'MW', 'Molar mass', 'molar_mass'],
  ['density', 'rho', 'Density', 'density'],
  ['formation_enthalpy', 'Hf', 'Enthalpy of formation, crystal', 'molar_enthalpy'],
  ['entropy', 'S0', 'Entropy, crystal, 298.15 K', 'molar_entropy'],
] as const
const OF_DISSOLVED = [
  ['molar_mass', 'MW', 'Molar mass', 'molar_mass'],
  ['density', 'rho', 'Density that it adds', 'density'],
  ['formation_enthalpy', 'Hf', 'Enthalpy of formation, dissolved', 'molar_enthalpy'],
  ['heat_capacity', 'Cp', 'Heat capacity that it adds', 'molar_entropy'],
  ['entropy', 'S0', 'Entropy, dissolved, 298.15 K', 'molar_entropy'],
] as const
const own = computed(
  () =>
    (props.item.own ?? props.item.own_solid ?? props.item.own_dissolved) as Record<string, unknown> | null | undefined,
)
type Antoine = { a: number; b: number; c: number; low: number; high: number; source: string }
const psat = computed(() => props.item.vapour_pressure as unknown as Antoine)
const price = (value: Quantity | null) => plant.edit({ kind: 'set_price', id: props.item.id, price: value })
const constants = computed(() => {
  if (!own.value)
    return (props.bank?.constants ?? []).map((c) => {
      const mine = (props.item.overrides?.[c.field] as Quantity | undefined) ?? null
      return { ...c, mine, source: mine ? `own value; of the bank: ${told(c.value, c.kind)}, ${c.source}` : c.source }
    })
  const sources = (own.value.sources ?? {}) as Record<string, string>
  return (props.item.own_solid ? OF_SOLIDS : props.item.own_dissolved ? OF_DISSOLVED : OWN)
    .filter(([field]) => typeof own.value?.[field] === 'number')
    .map(([field, key, title, kind]) => ({
      key,
      title,
      kind,
      field: '',
      mine: null as Quantity | null,
      value: own.value?.[field] as number,
      source: sources[key] ?? (own.value?.[field] === 0 ? 'not known, counted as zero' : 'typed in'),
    }))
})
/** Which curve is being given one's own points. */
const opened = ref('')
const curves = computed(() =>
  (props.bank?.curves ?? []).map((c) => ({ ...c, own: props.item.curves?.[c.name] !== undefined })),
)
const shown = (value: number, kind: string) => {
  const unit = catalogue.displayUnit(kind, plant.unitSet)
  return { number: numberText(catalogue.shown(value, kind, unit), 6), unit: unitText(unit) }
}
const told = (value: number, kind: string) => Object.values(shown(value, kind)).join(' ').trim()
/** What may be replaced by a value of one's own; a melting point enters nothing. */
const changeable = (field: string) => !own.value && field && field !== 'melting_point'
const commit = (name: string) => (value: Quantity | null) =>
  plant.edit({ kind: 'set_constant', id: props.item.id, name: name as EditOf<'set_constant'>['name'], value })
const range = (low: number, high: number) => {
  const unit = catalogue.displayUnit('temperature', plant.unitSet)
  const [from, to] = [low, high].map((t) => numberText(catalogue.shown(t, 'temperature', unit), 4))
  return `${from} to ${to} ${unitText(unit)}`
}
async function draw(name: string) {
  const along = ['heat of vaporisation', 'liquid density'].includes(name)
  drawing.asked.kind = 'pure'
  drawing.asked.components[0] = props.item.id
  drawing.asked.quantity.pure = along ? `${name}, of the bank` : name
  await router.push(`/plant/${plant.variant?.id}/chemistry/diagrams`)
}
</script>

<template>
  <div>
    <h2 class="text-[17px] font-semibold">{{ bank?.name ?? item.id }}</h2>
    <p v-if="bank" class="mb-2 text-ink2">{{ bank.formula }}, CAS {{ bank.cas }}</p>
    <p v-else class="mb-2 text-ink2">{{ own?.formula }} own component</p>
    <p v-if="item.solid || item.own_solid" class="mb-2 border-l-3 border-act bg-actsoft px-2 py-1">
      A conventional solid: it stays beside the fluid at the same temperature and neither melts, dissolves nor boils.
    </p>
    <p v-if="item.own_dissolved" class="mb-2 border-l-3 border-act bg-actsoft px-2 py-1">
      Only ever dissolved: it neither boils nor freezes, and crystals of it form by a reaction.
    </p>
    <label class="mb-2 flex items-center gap-2" data-field="stands_for">
      <span class="shrink-0 text-ink2">Represents</span>
      <input
        class="input py-[2px]!"
        :class="item.stands_for ? 'border-act! bg-actsoft! font-medium' : ''"
        :value="item.stands_for ?? ''"
        maxlength="120"
        placeholder="the component itself, or what it is a surrogate for"
        :disabled="!plant.editable"
        @change="
          plant.edit({ kind: 'set_stands_for', id: item.id, text: ($event.target as HTMLInputElement).value.trim() })
        "
      />
    </label>
    <p v-if="bank" class="mb-3 text-[12px] text-ink2">{{ bank.synonyms.slice(0, 6).join(', ') }}</p>
    <details v-if="bank?.doubts?.length" class="mb-3 text-[12px]" data-test="doubts">
      <summary class="cursor-pointer text-warn">
        {{ bank.doubts.length === 1 ? 'One contradiction' : `${bank.doubts.length} contradictions` }} between sources
      </summary>
      <ul class="mt-1 list-disc pl-4 text-ink2">
        <li v-for="doubt in bank.doubts" :key="doubt">{{ doubt }}</li>
      </ul>
    </details>
    <h3 class="head mb-1">Constants, each with its source</h3>
    <div>
      <div v-for="c in constants" :key="c.key" class="border-b border-rule2 py-[4px]">
        <QuantityField
          v-if="changeable(c.field)"
          :label="c.title"
          :kind="c.kind"
          :given="c.mine"
          :calculated="c.value"
          :disabled="!plant.editable"
          :commit="commit(c.field)"
          :data-field="c.field"
        />
        <div v-else class="flex justify-between gap-2">
          <span>{{ c.title }}</span>
          <span class="whitespace-nowrap">
            <b class="font-medium">{{ shown(c.value, c.kind).number }}</b>
            <span class="ml-1 text-ink2">{{ shown(c.value, c.kind).unit }}</span>
          </span>
        </div>
        <p class="text-[11.5px] text-ink2">{{ c.source }}</p>
      </div>
    </div>
    <template v-if="item.vapour_pressure">
      <h3 class="head mt-4 mb-1">Own vapour pressure</h3>
      <p>
        ln(P/Pa) = {{ numberText(psat.a, 6) }} − {{ numberText(psat.b, 6) }}/(T + {{ numberText(psat.c, 5) }}),
        {{ range(psat.low, psat.high) }}
      </p>
      <p class="text-[11.5px] text-ink2">{{ psat.source }}; counts in ideal and activity models.</p>
      <button v-if="plant.editable" class="link" @click="plant.edit({ kind: 'set_vapour_pressure', id: item.id })">
        Use the bank value
      </button>
    </template>
    <h3 class="head mt-4 mb-1">Worth</h3>
    <QuantityField
      label="Price"
      kind="price"
      :given="item.price ?? null"
      :disabled="!plant.editable"
      :commit="price"
      data-field="price"
    />
    <p class="text-[11.5px] text-ink2">
      Streams whose components all have one show their money flow, as a value and as the width of their line.
    </p>
    <template v-if="curves.length">
      <h3 class="head mt-4 mb-1">Over temperature</h3>
      <ul>
        <li v-for="c in curves" :key="c.name" class="border-b border-rule2 py-[4px]">
          <div class="flex justify-between gap-2">
            <button class="link" @click="draw(c.name)">{{ c.name }}</button>
            <span v-if="c.own" class="text-[12px] font-semibold">own</span>
            <span v-else :class="c.estimated ? 'text-warn' : 'text-ink2'" class="text-[12px]">{{
              range(c.low, c.high)
            }}</span>
          </div>
          <p class="flex justify-between gap-2 text-[11.5px] text-ink2">
            <span>{{ c.own ? `of the bank: ${c.source}` : c.source }}</span>
            <button
              v-if="c.kind && !c.own && plant.editable"
              class="link shrink-0"
              :aria-label="`Give an own ${c.name}`"
              @click="opened = opened === c.name ? '' : c.name"
            >
              {{ opened === c.name ? 'not now' : 'own…' }}
            </button>
          </p>
          <OwnCurve v-if="c.kind && (c.own || opened === c.name)" :item="item" :name="c.name" :kind="c.kind" />
        </li>
      </ul>
    </template>
  </div>
</template>
