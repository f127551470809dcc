<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { api, type Quantity } from '../api/client'
import MessageLine from '../app/MessageLine.vue'
import { unitText } from '../quantities/format'
import QuantityField from '../quantities/QuantityField.vue'
import { usePlant } from '../stores/plant'
import { chosen, useEdits, whole, withPart, type Known, type Limit, type Objective, type Study } from './editing'
import { useOffered } from './offered'
import StudyFormulas from './StudyFormulas.vue'
import StudyInputs from './StudyInputs.vue'

/** What a study asks; every change is an edit of the plant. */
const props = defineProps<{ study: Study }>()
const emit = defineEmits<{ renamed: [name: string] }>()
const plant = usePlant()
const { change, settled, now, message } = useEdits(() => props.study)
const offered = useOffered()
const limits = computed(() => props.study.limits ?? [])
const objectives = computed(() => props.study.objectives ?? [])
const formulas = computed(() => [
  ...new Set([...(props.study.outputs ?? []), ...objectives.value, ...limits.value].map((one) => one.formula)),
])
/** What the formulas come to in the newest results. */
const known = shallowRef(new Map<string, Known>())
watch(
  () => [plant.variant?.id, plant.revision, plant.current, formulas.value.join('\n')],
  async () => {
    if (!plant.variant || !plant.current || !formulas.value.length) return
    const params = { path: { variant_id: plant.variant.id } }
    const reply = await api.POST('/api/variants/{variant_id}/formulas', { params, body: { formulas: formulas.value } })
    if (reply.data) known.value = new Map(reply.data.map((one) => [one.formula, one]))
  },
  { immediate: true },
)
async function rename(event: Event) {
  const field = event.target as HTMLInputElement
  const name = field.value.trim()
  const old = props.study.name
  if (!name || name === old) return
  if (plant.document?.studies?.some((s) => s.name === name)) {
    message.value = `There is a study "${name}" already.`
    return
  }
  await settled()
  const position = plant.document?.studies?.findIndex((s) => s.name === old) ?? 0
  message.value = await plant.edit({
    kind: 'batch',
    edits: [
      { kind: 'set_study', name: old },
      { kind: 'set_study', name, study: { ...now(), name } as never, position },
    ],
    label: `study ${old} is named ${name}`.slice(0, 120),
  })
  if (!message.value) emit('renamed', name)
}
const limited = (at: number, part: Partial<Limit>) => change((study) => ({ limits: withPart(study.limits, at, part) }))
const end = (at: number, which: 'low' | 'high') => (quantity: Quantity | null) => limited(at, { [which]: quantity })
/** An end whose kind has no name is typed as a number in the SI unit of the formula. */
function plainEnd(at: number, which: 'low' | 'high', event: Event) {
  const text = (event.target as HTMLInputElement).value.trim()
  const value = Number(text)
  const unit = known.value.get(limits.value[at]!.formula)?.si ?? ''
  if (!text || Number.isFinite(value)) void limited(at, { [which]: text ? { value, unit } : null })
}
const sense = (at: number, event: Event) =>
  change((study) => ({
    objectives: withPart(study.objectives, at, { sense: chosen(event) as Objective['sense'] }),
  }))
const DESIGNS = {
  cases: [
    ['grid', 'all combinations'],
    ['one at a time', 'one at a time'],
    ['samples', 'samples'],
  ],
  uncertainty: [
    ['samples', 'samples'],
    ['Sobol', 'samples for indices of Sobol'],
  ],
  optimum: [],
}
const designs = computed(() => DESIGNS[props.study.asks ?? 'cases'])
/** Numbers that go with what is asked. */
const numbers = computed(() => {
  const { asks, design } = props.study
  const sampled = asks === 'uncertainty' || (asks === 'cases' && design === 'samples')
  return [
    { field: 'samples' as const, title: 'How many', min: 2, max: 10000, asked: sampled },
    { field: 'starts' as const, title: 'Starts', min: 1, max: 20, asked: asks === 'optimum' },
    {
      field: 'tradeoffs' as const,
      title: 'Points of the trade-off',
      min: 3,
      max: 51,
      asked: asks === 'optimum' && objectives.value.length === 2,
    },
  ].filter((one) => one.asked)
})
const asks = (event: Event) => {
  const wanted = chosen(event) as NonNullable<Study['asks']>
  const design = wanted === 'uncertainty' ? 'samples' : props.study.design === 'Sobol' ? 'grid' : props.study.design
  return change(() => ({ asks: wanted, design }))
}
</script>

<template>
  <section aria-label="What is asked" class="mb-5 max-w-[1060px]">
    <div class="mb-4 flex flex-wrap items-baseline gap-4">
      <input
        class="input w-[300px] text-[16px] font-semibold"
        name="study-name"
        aria-label="Name of the study"
        maxlength="60"
        :value="study.name"
        :disabled="!plant.editable"
        @change="rename"
      />
      <label class="flex items-baseline gap-2"
        >Asks
        <select
          class="input w-[190px]"
          name="study-asks"
          :value="study.asks"
          :disabled="!plant.editable"
          @change="asks"
        >
          <option value="cases">how results move</option>
          <option value="optimum">what is best</option>
          <option value="uncertainty">how sure results are</option>
        </select>
      </label>
      <label v-if="designs.length" class="flex items-baseline gap-2"
        >Cases
        <select
          class="input w-[170px]"
          name="study-design"
          :value="study.asks === 'uncertainty' && study.design !== 'Sobol' ? 'samples' : study.design"
          :disabled="!plant.editable"
          @change="change(() => ({ design: chosen($event) as Study['design'] }))"
        >
          <option v-for="[value, text] in designs" :key="value" :value="value">{{ text }}</option>
        </select>
      </label>
      <label v-for="one in numbers" :key="one.field" class="flex items-baseline gap-2"
        >{{ one.title }}
        <input
          class="input w-[90px] text-right"
          :name="`study-${one.field}`"
          type="number"
          :min="one.min"
          :max="one.max"
          :value="study[one.field]"
          :disabled="!plant.editable"
          @change="change(() => ({ [one.field]: whole($event) }))"
        />
      </label>
      <button
        v-if="plant.editable"
        type="button"
        class="link ml-auto"
        @click="plant.edit({ kind: 'set_study', name: study.name })"
      >
        Remove this study
      </button>
    </div>
    <StudyInputs :study="study" :change="change" @refused="message = $event" />
    <template v-if="study.asks === 'optimum'">
      <StudyFormulas
        v-slot="{ at, called }"
        :study="study"
        part="objectives"
        title="What is to be best"
        add="A result, or a formula over results, to be the least or the most"
        :most="2"
        :known="known"
        :change="change"
      >
        <td class="w-[260px] pr-2">
          <select
            class="input w-[190px]"
            :name="`sense-${at}`"
            :aria-label="`Which is best, ${called}`"
            :value="objectives[at]?.sense"
            :disabled="!plant.editable"
            @change="sense(at, $event)"
          >
            <option value="least">as small as it can be</option>
            <option value="most">as large as it can be</option>
          </select>
        </td>
      </StudyFormulas>
      <StudyFormulas
        v-slot="{ at, called, formula }"
        :study="study"
        part="limits"
        title="Limits"
        add="A result, or a formula over results, that must keep to a limit"
        :most="20"
        :known="known"
        :change="change"
      >
        <td v-for="which in ['low', 'high'] as const" :key="which" class="w-[170px] pr-2">
          <QuantityField
            v-if="known.get(formula)?.kind"
            bare
            :label="`${which === 'low' ? 'At least' : 'At most'}, ${called}`"
            :kind="known.get(formula)!.kind!"
            :given="limits[at]?.[which]"
            :disabled="!plant.editable || limits[at]?.aside"
            :commit="end(at, which)"
          />
          <input
            v-else
            class="input text-right"
            :aria-label="`${which === 'low' ? 'At least' : 'At most'}, ${called}, ${unitText(known.get(formula)?.si ?? '') || 'a number'}`"
            :value="limits[at]?.[which]?.value ?? ''"
            :disabled="!plant.editable || limits[at]?.aside"
            @change="plainEnd(at, which, $event)"
          />
          <span class="block text-[12px] text-ink2">{{ which === 'low' ? 'at least' : 'at most' }}</span>
        </td>
        <td class="w-[110px]">
          <label class="flex items-baseline gap-1">
            <input
              type="checkbox"
              :name="`aside-${at}`"
              :checked="limits[at]?.aside"
              :disabled="!plant.editable"
              @change="limited(at, { aside: ($event.target as HTMLInputElement).checked })"
            />
            <span :class="limits[at]?.aside ? 'font-semibold text-warn' : ''">set aside</span>
          </label>
        </td>
      </StudyFormulas>
    </template>
    <StudyFormulas
      :study="study"
      part="outputs"
      :title="study.asks === 'optimum' ? 'What else is looked at' : 'What is looked at'"
      add="Look at a result, or a formula over results"
      :most="40"
      :known="known"
      :change="change"
    />
    <datalist id="study-values"><option v-for="text in offered" :key="text" :value="text" /></datalist>
    <MessageLine class="mt-2" :text="message" />
  </section>
</template>
