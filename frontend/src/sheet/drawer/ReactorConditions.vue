<script setup lang="ts">
import { computed } from 'vue'
import type { Quantity } from '../../api/client'
import QuantityField from '../../quantities/QuantityField.vue'
import { useConditions, type Condition } from '../../stores/conditions'
import { usePlant } from '../../stores/plant'

/** Conditions at the inlets of reactors: a row each, blank where they are as they are. */
const MOST = 6
const FIELDS = [
  { key: 'temperature', title: 'Temperature', kind: 'temperature' },
  { key: 'pressure', title: 'Pressure', kind: 'pressure' },
  { key: 'flow', title: 'Share of the flow', kind: 'fraction' },
] as const
const plant = usePlant()
const store = useConditions()
const rows = computed(() => (plant.variant ? store.of(plant.variant.id) : []))
const keep = (next: Condition[]) => plant.variant && store.set(plant.variant.id, next)
const commit = (at: number, key: keyof Condition) => async (value: Quantity | null) => {
  keep(rows.value.map((row, k) => (k === at ? { ...row, [key]: value } : row)))
  return ''
}
</script>

<template>
  <div class="mb-2 flex flex-wrap items-end gap-x-4 gap-y-1">
    <table v-if="rows.length" aria-label="Conditions at the inlets">
      <thead>
        <tr class="text-left">
          <th v-for="f in FIELDS" :key="f.key" scope="col" class="head pr-2 font-normal">{{ f.title }}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="(row, k) in rows" :key="k">
          <td v-for="f in FIELDS" :key="f.key" class="w-[110px] pr-2">
            <QuantityField
              bare
              :label="`${f.title} of condition ${k + 1}`"
              :kind="f.kind"
              :given="row[f.key] ?? null"
              :commit="commit(k, f.key)"
            />
          </td>
          <td>
            <button
              type="button"
              class="link no-underline"
              :aria-label="`Remove condition ${k + 1}`"
              @click="keep(rows.filter((_, at) => at !== k))"
            >
              ×
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <button v-if="rows.length < MOST" type="button" class="btn py-[1px]!" @click="keep([...rows, {}])">
      {{ rows.length ? 'Another condition' : 'Other conditions at the inlet' }}
    </button>
  </div>
</template>
