<script setup lang="ts">
import { useId } from 'vue'
import type { Quantity } from '../api/client'
import PointsTable from '../quantities/PointsTable.vue'
import QuantityField from '../quantities/QuantityField.vue'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import type { ConstantDraft } from './draft'

/** A constant with its unit, which is checked: a value, activation energy and the temperature at which it holds; or a table of measured ones. */
const props = defineProps<{ label: string; title: string; units?: string[]; energyTitle?: string }>()
const constant = defineModel<ConstantDraft>({ required: true })
const plant = usePlant()
const catalogue = useCatalogue()
const list = useId()
const text = (event: Event) => (event.target as HTMLInputElement).value
function change(part: Partial<ConstantDraft>) {
  constant.value = { ...constant.value, ...part }
}
const commit = (key: 'energy' | 'reference') => async (value: Quantity | null) => {
  change({ [key]: value })
  return ''
}
type Row = [number | null, number | null]
/** The table is kept once each of its rows is whole, and there are two or more. */
async function measured(units: string[], rows: Row[]): Promise<string | null> {
  if (rows.length < 2 || rows.some((row) => row.includes(null))) return null
  change({ table: { temperature_unit: units[0]!, rows: rows as [number, number][] } })
  return ''
}
const blank = () => ({ temperature_unit: catalogue.displayUnit('temperature', plant.unitSet), rows: [] })
</script>

<template>
  <div>
    <label class="grid grid-cols-[1fr_70px_150px] items-center gap-2 py-[2px]">
      {{ props.title }}
      <input
        v-if="!constant.table"
        class="input py-[2px]!"
        :class="constant.value ? 'font-semibold' : ''"
        :aria-label="label"
        :value="constant.value"
        maxlength="24"
        @change="change({ value: text($event) })"
      />
      <span v-else class="text-right text-ink2">unit</span>
      <input
        class="input py-[2px]!"
        :aria-label="label.replace(/: (.*)/, ': unit of the $1')"
        :value="constant.unit"
        :list="list"
        :placeholder="units?.[0] ?? ''"
        maxlength="40"
        @change="change({ unit: text($event) })"
      />
      <datalist :id="list">
        <option v-for="unit in units ?? []" :key="unit" :value="unit" />
      </datalist>
    </label>
    <PointsTable
      v-if="constant.table"
      :label="`${label} over temperature`"
      :columns="[
        { title: 'Temperature', kind: 'temperature' },
        { title: 'Constant', kind: 'number', told: constant.unit },
      ]"
      :units="[constant.table.temperature_unit, '']"
      :rows="constant.table.rows"
      :save="measured"
    />
    <template v-else>
      <QuantityField
        :label="energyTitle ?? 'Activation energy'"
        kind="molar_enthalpy"
        :given="constant.energy"
        :disabled="!plant.editable"
        :commit="commit('energy')"
      />
      <QuantityField
        label="Constant holds at"
        kind="temperature"
        help="blank: the constant is the factor before the exponential"
        :given="constant.reference"
        :disabled="!plant.editable"
        :commit="commit('reference')"
      />
    </template>
    <button
      v-if="plant.editable"
      type="button"
      class="link"
      @click="change({ table: constant.table ? null : blank() })"
    >
      {{ constant.table ? 'One value, by an activation energy' : 'Measured at several temperatures' }}
    </button>
  </div>
</template>
