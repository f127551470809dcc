<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api, sentence, type Quantity, type Schemas } from '../api/client'
import MessageLine from '../app/MessageLine.vue'
import { typedText, unitText } from '../quantities/format'
import QuantityField from '../quantities/QuantityField.vue'
import { usePlant } from '../stores/plant'
import { useOffered } from './offered'

/** What a study varies and looks at; every change is an edit of the plant. */
type Study = Schemas['Study']
type Input = NonNullable<Study['inputs']>[number]
const props = defineProps<{ study: Study }>()
const emit = defineEmits<{ renamed: [name: string] }>()
const plant = usePlant()
const message = ref('')
const givens = shallowRef<Schemas['GivenOut'][]>([])
const inputs = computed(() => props.study.inputs ?? [])
const outputs = computed(() => props.study.outputs ?? [])
const key = (of: { unit: string; field: string }) => `${of.unit} ${of.field}`
const given = (input: Input) => givens.value.find((g) => key(g) === key(input))
const free = computed(() => {
  const taken = new Set(inputs.value.map(key))
  return givens.value.filter((g) => !taken.has(key(g)))
})
const offered = useOffered()

watch(
  () => [plant.variant?.id, plant.revision],
  async () => {
    if (!plant.variant) return
    const params = { path: { variant_id: plant.variant.id } }
    givens.value = (await api.GET('/api/variants/{variant_id}/givens', { params })).data ?? []
  },
  { immediate: true },
)

/** The study as it stands on the page now, which may be newer than what is drawn. */
const now = () => plant.document?.studies?.find((s) => s.name === props.study.name) ?? props.study
/** Edits are made one after the other, each from what the one before left: two fields may be typed faster than the server answers. */
let before: Promise<string> = Promise.resolve('')
function change(make: (study: Study) => Partial<Study>): Promise<string> {
  before = before.then(async () => {
    const study = now()
    const edit = { kind: 'set_study', name: study.name, study: { ...study, ...make(study) } as never } as const
    return (message.value = await plant.edit(edit))
  })
  return before
}
async function rename(event: Event) {
  const field = event.target as HTMLInputElement
  const name = field.value.trim()
  const old = props.study.name
  if (!name || name === old) return
  if (plant.document?.studies?.some((s) => s.name === name)) {
    message.value = `There is a study "${name}" already.`
    return
  }
  await before
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
const changed = (at: number, part: Partial<Input>) =>
  change((study) => ({ inputs: study.inputs?.map((input, k) => (k === at ? { ...input, ...part } : input)) }))
function vary(event: Event) {
  const picked = givens.value.find((g) => key(g) === (event.target as HTMLSelectElement).value)
  ;(event.target as HTMLSelectElement).value = ''
  if (!picked) return
  const input = { unit: picked.unit, field: picked.field } as Input
  void change((study) => ({ inputs: [...(study.inputs ?? []), input] }))
}
const bound = (at: number, which: 'low' | 'high') => (quantity: Quantity | null) => changed(at, { [which]: quantity })
/** What is typed stays until it is taken. */
async function look(event: Event) {
  const field = event.target as HTMLInputElement
  const formula = field.value.trim()
  if (!formula) return
  const refused = await change((study) => ({
    outputs: [...(study.outputs ?? []), { name: formula.slice(0, 60), formula }],
  }))
  if (!refused && field.value.trim() === formula) field.value = ''
}
function named(at: number, event: Event) {
  const name = (event.target as HTMLInputElement).value.trim()
  if (name) void change((study) => ({ outputs: study.outputs?.map((pin, k) => (k === at ? { ...pin, name } : pin)) }))
}
/** Values one by one in the place of bounds: typed, or pasted from a spreadsheet. */
const listed = (input: Input) => props.study.design !== 'samples' && (input.values?.length ?? 0) > 0
const valuesText = (input: Input) =>
  (input.values ?? []).map((v) => `${typedText(v.value)} ${unitText(v.unit ?? '')}`.trim()).join('; ')
function steps(at: number, way: string) {
  const typed = given(inputs.value[at]!)?.typed
  if (way !== 'list') return void changed(at, { spacing: way as Input['spacing'], values: [] })
  if (typed) void changed(at, { values: [typed] as Input['values'] })
}
async function list(at: number, event: Event) {
  const field = event.target as HTMLTextAreaElement
  const input = inputs.value[at]!
  const kind = given(input)?.kind ?? 'number'
  const fallback = input.values?.[0]?.unit || given(input)?.typed.unit || ''
  const values: Quantity[] = []
  for (const text of field.value
    .split(/[;\n\t]+/)
    .map((part) => part.trim())
    .filter(Boolean)) {
    const plain = text.replace(/°/g, 'deg').replace(/³/g, '3')
    const read = await api.POST('/api/quantities/parse', { body: { text: plain, kind, default_unit: fallback } })
    if (!read.data?.quantity) {
      message.value = read.data ? `${text}: ${unitText(read.data.message)}` : sentence(read.error)
      return
    }
    values.push(read.data.quantity)
  }
  if (values.length) await changed(at, { values: values as Input['values'] })
}
const without = <T,>(list: T[] | undefined, at: number) => list?.filter((_, k) => k !== at)
const number = (event: Event) => Math.round(Number((event.target as HTMLInputElement).value))
</script>

<template>
  <section aria-label="What is asked" class="mb-5 max-w-[980px]">
    <div class="mb-4 flex flex-wrap items-baseline gap-4">
      <input
        class="input w-[320px] text-[16px] font-semibold"
        name="study-name"
        aria-label="Name of the study"
        maxlength="60"
        :value="study.name"
        :disabled="!plant.editable"
        @change="rename"
      />
      <label class="flex items-baseline gap-2"
        >Cases
        <select
          class="input w-[200px]"
          name="study-design"
          :value="study.design"
          :disabled="!plant.editable"
          @change="change(() => ({ design: ($event.target as HTMLSelectElement).value as Study['design'] }))"
        >
          <option value="grid">all combinations</option>
          <option value="one at a time">one at a time</option>
          <option value="samples">samples</option>
        </select>
      </label>
      <label v-if="study.design === 'samples'" class="flex items-baseline gap-2"
        >How many
        <input
          class="input w-[90px] text-right"
          name="study-samples"
          type="number"
          min="2"
          max="10000"
          :value="study.samples"
          :disabled="!plant.editable"
          @change="change(() => ({ samples: number($event) }))"
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
    <h2 class="head mb-1">What is varied</h2>
    <table class="mb-2 w-full" data-test="study-inputs">
      <thead v-if="inputs.length">
        <tr class="border-b border-rule text-left">
          <th scope="col" class="head">Value</th>
          <th scope="col" class="head w-[190px]">From</th>
          <th scope="col" class="head w-[190px]">To</th>
          <th scope="col" class="head w-[90px]">Points</th>
          <th scope="col" class="head w-[140px]">Steps</th>
          <th class="w-[70px]"></th>
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
              :aria-label="`Values, ${input.unit} ${given(input)?.title ?? input.field}`"
              :value="valuesText(input)"
              :disabled="!plant.editable"
              @change="list(k, $event)"
            />
          </td>
          <td v-for="which in listed(input) ? [] : (['low', 'high'] as const)" :key="which" class="pr-2">
            <QuantityField
              bare
              :label="`${which === 'low' ? 'From' : 'To'}, ${input.unit} ${given(input)?.title ?? input.field}`"
              :kind="given(input)?.kind ?? 'number'"
              :unit="given(input)?.typed.unit"
              :given="input[which]"
              :disabled="!plant.editable"
              :commit="bound(k, which)"
            />
          </td>
          <td v-if="!listed(input)" class="pr-2">
            <input
              v-if="study.design !== 'samples'"
              class="input text-right"
              type="number"
              min="2"
              max="1001"
              :name="`points-${k}`"
              :aria-label="`Points, ${input.unit} ${given(input)?.title ?? input.field}`"
              :value="input.points"
              :disabled="!plant.editable"
              @change="changed(k, { points: number($event) })"
            />
          </td>
          <td class="pr-2">
            <select
              class="input"
              :name="`spacing-${k}`"
              :aria-label="`Steps, ${input.unit} ${given(input)?.title ?? input.field}`"
              :value="listed(input) ? 'list' : input.spacing"
              :disabled="!plant.editable"
              @change="steps(k, ($event.target as HTMLSelectElement).value)"
            >
              <option value="even">even</option>
              <option value="logarithmic">logarithmic</option>
              <option v-if="study.design !== 'samples'" value="list">a list</option>
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
      v-if="plant.editable && inputs.length < 4"
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
    <h2 class="head mb-1">What is looked at</h2>
    <table class="mb-2 w-full" data-test="study-outputs">
      <tbody>
        <tr v-for="(pin, k) in outputs" :key="pin.name" class="border-b border-rule2 align-baseline">
          <td class="w-[320px] py-[4px] pr-2">
            <input
              class="input"
              :name="`output-${k}`"
              :aria-label="`Name of ${pin.formula}`"
              maxlength="60"
              :value="pin.name"
              :disabled="!plant.editable"
              @change="named(k, $event)"
            />
          </td>
          <td class="font-mono text-[12px]">{{ pin.formula }}</td>
          <td class="w-[70px] text-right">
            <button
              v-if="plant.editable"
              type="button"
              class="link"
              @click="change((s) => ({ outputs: without(s.outputs, k) }))"
            >
              Leave out
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <input
      v-if="plant.editable"
      class="input w-[420px]"
      name="look-at"
      list="study-values"
      maxlength="300"
      aria-label="Look at a result, or a formula over results"
      placeholder="Look at a result, or a formula over results…"
      @change="look"
    />
    <datalist id="study-values"><option v-for="text in offered" :key="text" :value="text" /></datalist>
    <MessageLine class="mt-2" :text="message" />
  </section>
</template>
