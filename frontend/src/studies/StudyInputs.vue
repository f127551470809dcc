<script setup lang="ts">
import { computed } from 'vue'
import type { Quantity } from '../api/client'
import { typedText, unitText } from '../quantities/format'
import QuantityField from '../quantities/QuantityField.vue'
import { usePlant } from '../stores/plant'
import { chosen, valuesIn, whole, without, withPart, type Change, type Input, type Item, type Study } from './editing'
import { keyOf, told, useVariables, type Variable } from './varied'

/** What a study varies: values between bounds, in steps or as they are distributed, and what fits found within their intervals. */
const props = defineProps<{ study: Study; change: Change }>()
const emit = defineEmits<{ refused: [text: string] }>()
const plant = usePlant()
const MOST = 10
const { givens, properties, of } = useVariables()
const items = computed(() => props.study.inputs ?? [])
const loaded = computed(() => givens.value.length + properties.value.length > 0)
const heading = (item: Input) => ('unit' in item ? item.unit : [item.first, item.second].filter(Boolean).join(', '))
const titled = (item: Input) => of(item)?.title ?? ('unit' in item ? item.field : item.name)
const title = (item: Input) => `${heading(item)} ${titled(item)}`
const taken = computed(() => new Set(items.value.map(keyOf)))
const free = computed(() => givens.value.filter((v) => !taken.value.has(keyOf(v.item))))
/** Numbers of the chemistry, under what they are of. */
const freeProperties = computed(() => {
  const found = new Map<string, Variable[]>()
  for (const v of properties.value)
    if (!taken.value.has(keyOf(v.item))) found.set(v.heading, [...(found.get(v.heading) ?? []), v])
  return [...found]
})
const fits = computed(() =>
  (plant.document?.chemistry.fits ?? []).filter((fit) => !taken.value.has(keyOf({ fit: fit.name }))),
)
const fitOf = (item: { fit: string }) => plant.document?.chemistry.fits?.find((fit) => fit.name === item.fit)
const stepped = computed(() => props.study.asks === 'cases' && ['grid', 'one at a time'].includes(props.study.design!))
const columns = computed(() => 3 + (stepped.value || props.study.asks === 'uncertainty' ? 1 : 0))

const changed = (at: number, part: Partial<Input>) =>
  props.change((study) => ({ inputs: withPart(study.inputs, at, part) }))
const bound = (at: number, which: 'low' | 'high') => (quantity: Quantity | null) => changed(at, { [which]: quantity })
function add(item: Item) {
  void props.change((study) => ({ inputs: [...(study.inputs ?? []), item] }))
}
/** Add what is chosen of a list, which then shows its invitation again. */
function vary(event: Event) {
  const key = chosen(event)
  ;(event.target as HTMLSelectElement).value = ''
  const picked = [...givens.value, ...properties.value].find((v) => keyOf(v.item) === key)
  if (picked) add(picked.item)
}
function draw(event: Event) {
  const fit = chosen(event)
  ;(event.target as HTMLSelectElement).value = ''
  if (fit) add({ fit })
}
/** Values one by one in the place of bounds: typed, or pasted from a spreadsheet. */
const listed = (input: Input) => stepped.value && (input.values?.length ?? 0) > 0
const valuesText = (input: Input) =>
  (input.values ?? []).map((v) => `${typedText(v.value)} ${unitText(v.unit ?? '')}`.trim()).join('; ')
function steps(at: number, way: string) {
  const typed = of(items.value[at]!)?.typed
  if (way !== 'list') return void changed(at, { spacing: way as Input['spacing'], values: [] })
  if (typed) void changed(at, { values: [typed] as Input['values'] })
}
async function list(at: number, event: Event) {
  const input = items.value[at] as Input
  const unit = input.values?.[0]?.unit || of(input)?.typed.unit || ''
  const values = await valuesIn((event.target as HTMLTextAreaElement).value, of(input)?.kind ?? 'number', unit)
  if (typeof values === 'string') emit('refused', values)
  else if (values.length) await changed(at, { values: values as Input['values'] })
}
</script>

<template>
  <section aria-label="What is varied">
    <h2 class="head mb-1">{{ study.asks === 'uncertainty' ? 'What is uncertain' : 'What is varied' }}</h2>
    <table class="mb-2 w-full" data-test="study-inputs">
      <thead v-if="items.length">
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
        <tr v-for="(input, k) in items" :key="keyOf(input)" class="border-b border-rule2 align-baseline">
          <template v-if="'fit' in input">
            <td class="py-[4px]">
              <b class="font-medium">{{ input.fit }}</b>
              <span v-if="fitOf(input)" class="block text-[12px] text-ink2"
                >to {{ fitOf(input)!.data.join(', ') }}</span
              >
              <span v-else class="block text-[12px] text-warn">is not kept any more</span>
            </td>
            <td :colspan="columns" class="pr-2 text-ink2">
              <template v-if="fitOf(input)">
                {{ fitOf(input)!.values.length }}
                {{ fitOf(input)!.values.length === 1 ? 'number, normal' : 'numbers, normal and correlated' }} as its
                data leave them
              </template>
            </td>
          </template>
          <template v-else>
            <td class="py-[4px]">
              <b class="font-medium" :class="{ tag: 'unit' in input }">{{ heading(input) }}</b> {{ titled(input) }}
              <span v-if="of(input)" class="block text-[12px] text-ink2">now {{ told(of(input)!) }}</span>
              <span v-else-if="loaded" class="block text-[12px] text-warn">is not there any more</span>
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
                :kind="of(input)?.kind ?? 'number'"
                :unit="of(input)?.typed.unit"
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
          </template>
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
    <div v-if="plant.editable && items.length < MOST" class="mb-4 flex flex-wrap gap-2">
      <select class="input w-[380px]" name="vary" aria-label="Vary a value that is given" value="" @change="vary">
        <option value="">Vary a value that is given…</option>
        <option v-for="v in free" :key="keyOf(v.item)" :value="keyOf(v.item)">
          {{ v.heading }} {{ v.title }}, now {{ told(v) }}
        </option>
      </select>
      <select
        v-if="study.asks !== 'optimum' && freeProperties.length"
        class="input w-[300px]"
        name="vary-property"
        aria-label="Vary a property"
        value=""
        @change="vary"
      >
        <option value="">Vary a property…</option>
        <optgroup v-for="[group, variables] in freeProperties" :key="group" :label="group">
          <option v-for="v in variables" :key="keyOf(v.item)" :value="keyOf(v.item)">
            {{ v.title }}, now {{ told(v) }}
          </option>
        </optgroup>
      </select>
      <select
        v-if="study.asks === 'uncertainty' && fits.length"
        class="input w-[300px]"
        name="draw-fit"
        aria-label="Take in how well a fit is known"
        value=""
        @change="draw"
      >
        <option value="">Take in how well a fit is known…</option>
        <option v-for="fit in fits" :key="fit.name" :value="fit.name">
          {{ fit.name }} to {{ fit.data.join(', ') }}
        </option>
      </select>
    </div>
  </section>
</template>
