<script setup lang="ts">
import { computed } from 'vue'
import type { LawLook } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import { usePlant } from '../stores/plant'
import ConstantFields from './ConstantFields.vue'
import DenominatorTerms from './DenominatorTerms.vue'
import { BASES, constantDraft, elementary, LAWS, PERS, unreadable, type ConstantDraft, type RateDraft } from './draft'

/** A rate law: a product of powers, hindered or not, or an expression; its constants with units that are checked. */
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
/** Components of the equation first, those of its own side before the others; then whatever else is in the law. */
const rows = computed(() => {
  const of = (sign: number) => Object.keys(props.numbers).filter((name) => sign * props.numbers[name]! > 0)
  return [...new Set([...of(props.sign), ...of(-props.sign), ...Object.keys(law.value.orders)])]
})
const others = computed(() => plant.fluids.filter((id) => !rows.value.includes(id)))
/** Constants of the expression as it was looked at last, or as they were kept. */
const symbols = computed(() => (props.look?.symbols.length ? props.look.symbols : Object.keys(law.value.constants)))
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
const constant = (name: string, of: ConstantDraft) => change({ constants: { ...law.value.constants, [name]: of } })
const text = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <fieldset class="border-t border-rule pt-2" :aria-label="title" :disabled="!plant.editable">
    <legend class="head pr-2">{{ title }}</legend>
    <div class="grid grid-cols-[1fr_1fr] gap-x-5">
      <div>
        <label class="grid grid-cols-[1fr_150px] items-center gap-2 py-[2px]">
          Written as
          <select
            class="input py-[2px]!"
            :aria-label="`${title}: written as`"
            :value="law.kind"
            @change="change({ kind: text($event) as RateDraft['kind'] })"
          >
            <option v-for="(words, kind) in LAWS" :key="kind" :value="kind">{{ words }}</option>
          </select>
        </label>
        <label class="grid grid-cols-[1fr_150px] items-center gap-2 py-[2px]">
          Rate per
          <select class="input py-[2px]!" :value="law.per" @change="change({ per: text($event) as RateDraft['per'] })">
            <option v-for="(words, per) in PERS" :key="per" :value="per">{{ words }}</option>
          </select>
        </label>
        <template v-if="law.kind === 'powers'">
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
        </template>
      </div>
      <div v-if="law.kind === 'powers'">
        <ConstantFields
          :model-value="law"
          :label="`${title}: constant`"
          title="Constant"
          :units="look?.units ?? []"
          @update:model-value="change($event as Partial<RateDraft>)"
        />
        <label v-if="!law.table" class="grid grid-cols-[1fr_150px] items-center gap-2 py-[2px]">
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
        <label v-if="law.terms.length" class="grid grid-cols-[1fr_150px] items-center gap-2 py-[2px]">
          Denominator to the power
          <input
            class="input py-[2px]!"
            :aria-label="`${title}: power of the denominator`"
            :value="law.termsPower"
            placeholder="1"
            maxlength="8"
            @change="change({ termsPower: text($event) })"
          />
        </label>
      </div>
      <p v-else class="text-ink2">
        Ordinary arithmetic over c[…] concentrations, p[…] partial pressures, f[…] fugacities, x[…] mole fractions and
        a[…] activities of components, T and P; every other name is a constant: k * p[A] / (1 + K * p[B])^2.
      </p>
    </div>
    <DenominatorTerms
      v-if="law.kind === 'powers'"
      :model-value="law.terms"
      :title="title"
      :units="look?.term_units ?? []"
      @update:model-value="change({ terms: $event })"
    />
    <template v-else>
      <label class="mt-1 block">
        <span class="sr-only">{{ title }}: expression</span>
        <input
          class="input font-semibold"
          :aria-label="`${title}: expression`"
          :value="law.expression"
          placeholder="k * p[A] / (1 + K * p[B])^2"
          maxlength="300"
          spellcheck="false"
          @change="change({ expression: text($event) })"
        />
      </label>
      <div class="mt-1 grid grid-cols-[1fr_1fr] gap-x-5">
        <ConstantFields
          v-for="name in symbols"
          :key="name"
          class="border-t border-dotted border-rule py-1"
          :model-value="law.constants[name] ?? constantDraft()"
          :label="`${title}: constant ${name}`"
          :title="name"
          energy-title="Energy"
          @update:model-value="constant(name, $event)"
        />
      </div>
    </template>
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
