<script setup lang="ts">
import { computed } from 'vue'
import type { BankComponent, PlantComponent } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'

/** A component of the plant with every constant and where it comes from: from the bank, or an own one. */
const props = defineProps<{ item: PlantComponent; bank: BankComponent | null }>()
const catalogue = useCatalogue()
const plant = usePlant()
const OWN = [
  ['molar_mass', 'MW', 'Molar mass', 'molar_mass'],
  ['critical_temperature', 'Tc', 'Critical temperature', 'temperature'],
  ['critical_pressure', 'Pc', 'Critical pressure', 'pressure'],
  ['acentric_factor', 'omega', 'Acentric factor', 'number'],
  ['boiling_point', 'Tb', 'Normal boiling point', 'temperature'],
  ['formation_enthalpy', 'Hf', 'Enthalpy of formation, gas', 'molar_enthalpy'],
  ['entropy', 'S0', 'Entropy, gas, 298.15 K', 'molar_entropy'],
] as const
const own = computed(() => props.item.own as Record<string, unknown> | null | undefined)
const constants = computed(() => {
  if (!own.value) return props.bank?.constants ?? []
  const sources = (own.value.sources ?? {}) as Record<string, string>
  return OWN.filter(([field]) => typeof own.value?.[field] === 'number').map(([field, key, title, kind]) => ({
    key,
    title,
    kind,
    value: own.value?.[field] as number,
    source: sources[key] ?? (own.value?.[field] === 0 ? 'not known, counted as zero' : 'typed in'),
  }))
})
const shown = (value: number, kind: string) => {
  const unit = catalogue.displayUnit(kind, plant.unitSet)
  return { number: numberText(catalogue.shown(value, kind, unit), 6), unit: unitText(unit) }
}
</script>

<template>
  <div>
    <h2 class="text-[17px] font-semibold">{{ bank?.name ?? item.id }}</h2>
    <p v-if="bank" class="mb-2 text-ink2">{{ bank.formula }}, CAS {{ bank.cas }}</p>
    <p v-else class="mb-2 text-ink2">{{ own?.formula }} own component</p>
    <p v-if="own?.stands_for" class="mb-2 border-l-3 border-act bg-actsoft px-2 py-1">
      Stands for {{ own.stands_for }}.
    </p>
    <p v-if="bank" class="mb-3 text-[12px] text-ink2">{{ bank.synonyms.slice(0, 6).join(', ') }}</p>
    <h3 class="head mb-1">Constants, each with its source</h3>
    <dl>
      <div v-for="c in constants" :key="c.key" class="border-b border-rule2 py-[4px]">
        <div class="flex justify-between gap-2">
          <dt>{{ c.title }}</dt>
          <dd class="whitespace-nowrap">
            <b class="font-medium">{{ shown(c.value, c.kind).number }}</b>
            <span class="ml-1 text-ink2">{{ shown(c.value, c.kind).unit }}</span>
          </dd>
        </div>
        <p class="text-[11.5px] text-ink2">{{ c.source }}</p>
      </div>
    </dl>
  </div>
</template>
