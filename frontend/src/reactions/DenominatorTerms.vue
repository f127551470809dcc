<script setup lang="ts">
import { usePlant } from '../stores/plant'
import ConstantFields from './ConstantFields.vue'
import { termDraft, type ConstantDraft, type TermDraft } from './draft'

/** Terms of a denominator, `1 + K1 p[..] + K2 ..`: what is adsorbed hinders the rate. */
defineProps<{ title: string; units: string[] }>()
const terms = defineModel<TermDraft[]>({ required: true })
const plant = usePlant()
const text = (event: Event) => (event.target as HTMLInputElement).value
function change(at: number, part: Partial<TermDraft>) {
  terms.value = terms.value.map((term, k) => (k === at ? { ...term, ...part } : term))
}
function order(at: number, name: string, typed: string) {
  const orders = { ...terms.value[at]!.orders, [name]: typed }
  if (!typed.trim()) delete orders[name]
  change(at, { orders })
}
function component(at: number, event: Event) {
  const select = event.target as HTMLSelectElement
  if (select.value) order(at, select.value, '1')
  select.value = ''
}
</script>

<template>
  <div>
    <div
      v-for="(term, k) in terms"
      :key="k"
      role="group"
      class="mt-1 grid grid-cols-[1fr_1fr] gap-x-5 border-t border-dotted border-rule pt-1"
      :aria-label="`${title}: term ${k + 1} of the denominator`"
    >
      <div>
        <p class="flex items-center gap-3">
          <span class="font-semibold">K{{ k + 1 }}</span>
          <button
            type="button"
            class="link ml-auto"
            :aria-label="`${title}: remove K${k + 1}`"
            @click="terms = terms.filter((_, at) => at !== k)"
          >
            Remove
          </button>
        </p>
        <label
          v-for="name in Object.keys(term.orders)"
          :key="name"
          class="grid grid-cols-[1fr_150px] items-center gap-2 py-[2px]"
        >
          <span class="truncate" :title="name">Order of {{ name }}</span>
          <input
            class="input py-[2px]! font-semibold"
            :aria-label="`${title}: order of ${name} in K${k + 1}`"
            :value="term.orders[name]"
            maxlength="12"
            @change="order(k, name, text($event))"
          />
        </label>
        <select
          class="input my-1 ml-auto block w-[150px]! py-[2px]!"
          :aria-label="`${title}: component of K${k + 1}`"
          @change="component(k, $event)"
        >
          <option value="">{{ Object.keys(term.orders).length ? 'another component' : 'choose a component' }}</option>
          <option v-for="id in plant.fluids.filter((f) => !(f in term.orders))" :key="id">{{ id }}</option>
        </select>
      </div>
      <ConstantFields
        :model-value="term"
        :label="`${title}: constant K${k + 1}`"
        title="Constant"
        energy-title="Energy"
        :units="units[k] ? [units[k]!] : []"
        @update:model-value="change(k, $event as ConstantDraft)"
      />
    </div>
    <button v-if="plant.editable" type="button" class="link mt-1" @click="terms = [...terms, termDraft()]">
      {{ terms.length ? 'Another term' : 'Hindered by adsorption: divide by 1 + …' }}
    </button>
  </div>
</template>
