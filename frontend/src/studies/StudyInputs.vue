<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { api, type Quantity, type Schemas } from '../api/client'
import { typedText, unitText } from '../quantities/format'
import QuantityField from '../quantities/QuantityField.vue'
import { usePlant } from '../stores/plant'
import { chosen, valuesIn, whole, without, withPart, type Change, type Input, type Study } from './editing'

/** What a study varies: values that are given, between bounds, in steps or as they are distributed. */
const props = defineProps<{ study: Study; change: Change }>()
const emit = defineEmits<{ refused: [text: string] }>()
const plant = usePlant()
const MOST = 10
const givens = shallowRef<Schemas['GivenOut'][]>([])
const inputs = computed(() => props.study.inputs ?? [])
const key = (of: { unit: string; field: string }) => `${of.unit} ${of.field}`
const given = (input: Input) => givens.value.find((g) => key(g) === key(input))
const title = (input: Input) => `${input.unit} ${given(input)?.title ?? input.field}`
const free = computed(() => {
  const taken = new Set(inputs.value.map(key))
  return givens.value.filter((g) => !taken.has(key(g)))
})
const stepped = computed(() => props.study.asks === 'cases' && ['grid', 'one at a time'].includes(props.study.design!))

watch(
  () => [plant.variant?.id, plant.revision],
  async () => {
    if (!plant.variant) return
    const params = { path: { variant_id: plant.variant.id } }
    givens.value = (await api.GET('/api/variants/{variant_id}/givens', { params })).data ?? []
  },
  { immediate: true },
)
const changed = (at: number, part: Partial<Input>) =>
  props.change((study) => ({ inputs: withPart(study.inputs, at, part) }))
const bound = (at: number, which: 'low' | 'high') => (quantity: Quantity | null) => changed(at, { [which]: quantity })
function vary(event: Event) {
  const picked = givens.value.find((g) => key(g) === chosen(event))
  ;(event.target as HTMLSelectElement).value = ''
  if (!picked) return
  const input = { unit: picked.unit, field: picked.field } as Input
  void props.change((study) => ({ inputs: [...(study.inputs ?? []), input] }))
}
/** Values one by one in the place of bounds: typed, or pasted from a spreadsheet. */
const listed = (input: Input) => stepped.value && (input.values?.length ?? 0) > 0
const valuesText = (input: Input) =>
  (input.values ?? []).map((v) => `${typedText(v.value)} ${unitText(v.unit ?? '')}`.trim()).join('; ')
function steps(at: number, way: string) {
  const typed = given(inputs.value[at]!)?.typed
  if (way !== 'list') return void changed(at, { spacing: way as Input['spacing'], values: [] })
  if (typed) void changed(at, { values: [typed] as Input['values'] })
}
async function list(at: number, event: Event) {
  const input = inputs.value[at]!
  const unit = input.values?.[0]?.unit || given(input)?.typed.unit || ''
  const values = await valuesIn((event.target as HTMLTextAreaElement).value, given(input)?.kind ?? 'number', unit)
  if (typeof values === 'string') emit('refused', values)
  else if (values.length) await changed(at, { values: values as Input['values'] })
}
</script>

<template>
  <section aria-label="What is varied">
    <h2 class="head mb-1">{{ study.asks === 'uncertainty' ? 'What is uncertain' : 'What is varied' }}</h2>
    <table class="mb-2 w-full" data-test="study-inputs">
      <thead v-if="inputs.length">
        <tr class="border-b border-rule text-left">
          <th scope="col" class="head">Value</th>
          <th scope="col" class="head w-[190px]">From</th>
          <th scope="col" class="head w-[190px]">To</th>
          <th v-if="stepped" scope="col" class="head w-[90px]">Points</th>
          <th v-if="study.asks === 'uncertainty'" scope="col" class="head w-[150px]">Distribution</th>
          <th scope="col" class="head w-[140px]">{{ stepped ? 'Steps' : 'Scale' }}</th>
          <th class="w-[80px]"></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(input, k) in inputs" :key="key(input)" class="border-b border-rule2 align-baseline">
          <td class="py-[4px]">
            <b class="tag font-medium">{{ input.unit }}</b> {{ given(input)?.title ?? input.field }}
            <span v-if="given(input)" class="block text-[12px] text-ink2">
              now {{ given(input)!.typed.value }} {{ given(input)!.typed.unit }}
            </span>
            <span v-else-if="givens.length" class="block text-[12px] text-warn">is not given any more</span>
          </td>
          <td v-if="listed(input)" colspan="3" class="pr-2">
            <textarea
              class="input"
              rows="2"
              :name="`values-${k}`"
              :aria-label="`Values, ${title(input)}`"
              :value="valuesText(input)"
              :disabled="!plant.editable"
              @change="list(k, $event)"
            />
          </td>
          <td v-for="which in listed(input) ? [] : (['low', 'high'] as const)" :key="which" class="pr-2">
            <QuantityField
              bare
              :label="`${which === 'low' ? 'From' : 'To'}, ${title(input)}`"
              :kind="given(input)?.kind ?? 'number'"
              :unit="given(input)?.typed.unit"
              :given="input[which]"
              :disabled="!plant.editable"
              :commit="bound(k, which)"
            />
          </td>
          <td v-if="stepped && !listed(input)" class="pr-2">
            <input
              class="input text-right"
              type="number"
              min="2"
              max="1001"
              :name="`points-${k}`"
              :aria-label="`Points, ${title(input)}`"
              :value="input.points"
              :disabled="!plant.editable"
              @change="changed(k, { points: whole($event) })"
            />
          </td>
          <td v-if="study.asks === 'uncertainty'" class="pr-2">
            <select
              class="input"
              :name="`spread-${k}`"
              :aria-label="`Distribution, ${title(input)}`"
              :value="input.spread"
              :disabled="!plant.editable"
              @change="changed(k, { spread: chosen($event) as Input['spread'] })"
            >
              <option value="even">even</option>
              <option value="triangular">triangular</option>
              <option value="normal">normal, 95 %</option>
            </select>
          </td>
          <td class="pr-2">
            <select
              class="input"
              :name="`spacing-${k}`"
              :aria-label="`${stepped ? 'Steps' : 'Scale'}, ${title(input)}`"
              :value="listed(input) ? 'list' : input.spacing"
              :disabled="!plant.editable"
              @change="steps(k, chosen($event))"
            >
              <option value="even">{{ stepped ? 'even' : 'linear' }}</option>
              <option value="logarithmic">logarithmic</option>
              <option v-if="stepped" value="list">a list</option>
            </select>
          </td>
          <td class="text-right">
            <button
              v-if="plant.editable"
              type="button"
              class="link"
              @click="change((s) => ({ inputs: without(s.inputs, k) }))"
            >
              Leave out
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <select
      v-if="plant.editable && inputs.length < MOST"
      class="input mb-4 w-[420px]"
      name="vary"
      aria-label="Vary a value that is given"
      value=""
      @change="vary"
    >
      <option value="">Vary a value that is given…</option>
      <option v-for="g in free" :key="key(g)" :value="key(g)">
        {{ g.unit }} {{ g.title }}, now {{ g.typed.value }} {{ g.typed.unit }}
      </option>
    </select>
  </section>
</template>
