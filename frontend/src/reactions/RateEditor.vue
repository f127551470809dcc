<script setup lang="ts">
import { computed, useId } from 'vue'
import type { LawLook, Quantity } from '../api/client'
import QuantityField from '../quantities/QuantityField.vue'
import { numberText, unitText } from '../quantities/format'
import { usePlant } from '../stores/plant'
import { BASES, elementary, PERS, unreadable, type RateDraft } from './draft'

/** A rate law: which components it holds to which order, in what, and its constant with a unit that is checked. */
const props = defineProps<{
  title: string
  numbers: Record<string, number>
  /** Which side of the equation it uses up. */
  sign: 1 | -1
  look: LawLook | null
}>()
const law = defineModel<RateDraft>({ required: true })
const emit = defineEmits<{ done: [] }>()
const plant = usePlant()
const list = useId()
/** Components of the equation first, those of its own side before the others; then whatever else is in the law. */
const rows = computed(() => {
  const of = (sign: number) => Object.keys(props.numbers).filter((name) => sign * props.numbers[name]! > 0)
  return [...new Set([...of(props.sign), ...of(-props.sign), ...Object.keys(law.value.orders)])]
})
const others = computed(() => plant.fluids.filter((id) => !rows.value.includes(id)))
const wrong = computed(() => unreadable(law.value) || props.look?.problem || '')
function change(part: Partial<RateDraft>) {
  law.value = { ...law.value, ...part }
  emit('done')
}
function order(name: string, text: string) {
  const orders = { ...law.value.orders, [name]: text }
  if (!text.trim() && !(name in props.numbers)) delete orders[name]
  change({ orders })
}
const commit = (key: 'energy' | 'reference') => async (value: Quantity | null) => {
  change({ [key]: value })
  return ''
}
const text = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <fieldset class="border-t border-rule pt-2" :aria-label="title" :disabled="!plant.editable">
    <legend class="head pr-2">{{ title }}</legend>
    <div class="grid grid-cols-[1fr_1fr] gap-x-5">
      <div>
        <label class="grid grid-cols-[1fr_150px] items-center gap-2 py-[2px]">
          Counts in
          <select
            class="input py-[2px]!"
            :value="law.basis"
            @change="change({ basis: text($event) as RateDraft['basis'] })"
          >
            <option v-for="basis in BASES" :key="basis">{{ basis }}</option>
          </select>
        </label>
        <label class="grid grid-cols-[1fr_150px] items-center gap-2 py-[2px]">
          Rate per
          <select class="input py-[2px]!" :value="law.per" @change="change({ per: text($event) as RateDraft['per'] })">
            <option v-for="(words, per) in PERS" :key="per" :value="per">{{ words }}</option>
          </select>
        </label>
        <label v-for="name in rows" :key="name" class="grid grid-cols-[1fr_150px] items-center gap-2 py-[2px]">
          <span class="truncate" :title="name">Order of {{ name }}</span>
          <input
            class="input py-[2px]!"
            :class="law.orders[name]?.trim() ? 'font-semibold' : ''"
            :aria-label="`${title}: order of ${name}`"
            :value="law.orders[name] ?? ''"
            placeholder="not in the law"
            maxlength="12"
            @change="order(name, text($event))"
          />
        </label>
        <div class="flex gap-3 py-1">
          <button
            v-if="!Object.values(law.orders).some((t) => t.trim())"
            type="button"
            class="link"
            @click="change({ orders: elementary(numbers, sign) })"
          >
            As in one step
          </button>
          <select
            v-if="others.length"
            class="input ml-auto w-[150px]! py-[2px]!"
            :aria-label="`${title}: another component`"
            @change="(order(text($event), '0'), (($event.target as HTMLSelectElement).value = ''))"
          >
            <option value="">another component</option>
            <option v-for="id in others" :key="id">{{ id }}</option>
          </select>
        </div>
      </div>
      <div>
        <label class="grid grid-cols-[1fr_70px_150px] items-center gap-2 py-[2px]">
          Constant
          <input
            class="input py-[2px]!"
            :class="law.value ? 'font-semibold' : ''"
            :aria-label="`${title}: constant`"
            :value="law.value"
            maxlength="24"
            @change="change({ value: text($event) })"
          />
          <input
            class="input py-[2px]!"
            :aria-label="`${title}: unit of the constant`"
            :value="law.unit"
            :list="list"
            :placeholder="look?.unit ?? ''"
            maxlength="40"
            @change="change({ unit: text($event) })"
          />
          <datalist :id="list">
            <option v-for="unit in look?.units ?? []" :key="unit" :value="unit" />
          </datalist>
        </label>
        <QuantityField
          label="Activation energy"
          kind="molar_enthalpy"
          :given="law.energy"
          :disabled="!plant.editable"
          :commit="commit('energy')"
        />
        <QuantityField
          label="Constant holds at"
          kind="temperature"
          help="blank: the constant is the factor before the exponential"
          :given="law.reference"
          :disabled="!plant.editable"
          :commit="commit('reference')"
        />
        <label class="grid grid-cols-[1fr_150px] items-center gap-2 py-[2px]">
          Times T to the power
          <input
            class="input py-[2px]!"
            :aria-label="`${title}: power of T`"
            :value="law.power"
            placeholder="0"
            maxlength="8"
            @change="change({ power: text($event) })"
          />
        </label>
      </div>
    </div>
    <p v-if="wrong" role="alert" class="mt-1 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ wrong }}</p>
    <p v-if="look?.law" class="mt-1 text-ink2" data-test="law">
      {{ look.law
      }}<template v-if="look.unit"> with k in {{ unitText(look.unit) }} or any unit of its dimension</template
      ><template v-if="look.constant_si !== null && look.constant_si !== undefined"
        >; {{ numberText(look.constant_si, 6) }} {{ unitText(look.unit) }}, E/R =
        {{ numberText(look.energy_over_r ?? 0, 5) }} K</template
      >.
    </p>
    <p v-for="doubt in look?.doubts ?? []" :key="doubt" class="mt-1 text-warn">{{ doubt }}</p>
  </fieldset>
</template>
