<script setup lang="ts">
import { useId } from 'vue'
import type { Quantity } from '../api/client'
import QuantityField from '../quantities/QuantityField.vue'
import { usePlant } from '../stores/plant'
import type { ConstantDraft } from './draft'

/** A constant: value, unit that is checked, activation energy, and the temperature at which it holds. */
const props = defineProps<{ label: string; title: string; units?: string[]; energyTitle?: string }>()
const constant = defineModel<ConstantDraft>({ required: true })
const plant = usePlant()
const list = useId()
const text = (event: Event) => (event.target as HTMLInputElement).value
function change(part: Partial<ConstantDraft>) {
  constant.value = { ...constant.value, ...part }
}
const commit = (key: 'energy' | 'reference') => async (value: Quantity | null) => {
  change({ [key]: value })
  return ''
}
</script>

<template>
  <div>
    <label class="grid grid-cols-[1fr_70px_150px] items-center gap-2 py-[2px]">
      {{ props.title }}
      <input
        class="input py-[2px]!"
        :class="constant.value ? 'font-semibold' : ''"
        :aria-label="label"
        :value="constant.value"
        maxlength="24"
        @change="change({ value: text($event) })"
      />
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
  </div>
</template>
