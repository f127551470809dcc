<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, useId, watch } from 'vue'
import { api, sentence, type Quantity } from '../api/client'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import { numberText, typedText, unitText } from './format'

/** One value with its unit: shows what was typed, what was calculated or what was assumed, and how a text is understood. */
const props = defineProps<{
  label: string
  kind: string
  given?: Quantity | null
  calculated?: number | null
  assumed?: string | null
  /** What an aim sets the value to, where it is only the start of a search. */
  aim?: string
  help?: string
  stale?: boolean
  disabled?: boolean
  /** In a cell of a table: without a label in sight and without the value in other units. */
  bare?: boolean
  /** What a bare number is in, where it is not the unit set's. */
  unit?: string
  commit: (quantity: Quantity | null) => Promise<string>
}>()

const catalogue = useCatalogue()
const plant = usePlant()
const id = useId()
const draft = ref<string | null>(null)
const understood = ref('')
const refusal = ref('')
const FIELDS = 'input.input:not(:disabled), select.input:not(:disabled)'
let asked = 0
let finishing = false
let known: { text: string; quantity: Quantity } | null = null

const unit = computed(() => props.unit || catalogue.displayUnit(props.kind, plant.unitSet))
const reading = computed(() => {
  if (props.given) return `${typedText(props.given.value)} ${unitText(props.given.unit ?? '')}`.trim()
  if (props.assumed) return props.assumed
  if (props.calculated !== null && props.calculated !== undefined)
    return `${numberText(catalogue.shown(props.calculated, props.kind, unit.value))} ${unitText(unit.value)}`.trim()
  return ''
})
const text = computed({ get: () => draft.value ?? reading.value, set: (value: string) => (draft.value = value) })
const look = computed(() => {
  if (props.given || draft.value !== null) return 'font-semibold'
  if (!reading.value) return ''
  return props.assumed
    ? 'border-dashed! text-assumed font-medium'
    : 'border-transparent! bg-transparent! hover:border-rule!'
})
/** A typed value in another unit than the display's is also shown in that. */
const converted = computed(() => {
  const g = props.given
  if (!g || draft.value !== null || !g.unit || g.unit === unit.value) return ''
  const from = catalogue.data?.kinds[props.kind]?.units.find((u) => u.name === g.unit)
  const to = catalogue.data?.kinds[props.kind]?.units.find((u) => u.name === unit.value)
  const mass = (name: string) => /^(kg|t|g|lb)\b/.test(name)
  if (!from || !to || (props.kind === 'flow' && mass(g.unit) !== mass(unit.value))) return ''
  return `= ${numberText((g.value * from.factor + from.offset - to.offset) / to.factor)} ${unitText(unit.value)}`
})

watch(
  () => [props.given?.value, props.given?.unit],
  () => {
    draft.value = null
    known = null
  },
)

/** Reads a text as the server understands it; what the preview has read already is not asked again. */
async function parse(value: string): Promise<Quantity | null> {
  if (known?.text === value) return known.quantity
  const ask = ++asked
  const plain = value.replace(/°/g, 'deg').replace(/³/g, '3')
  const fallback = props.given?.unit || unit.value
  const answer = await api.POST('/api/quantities/parse', {
    body: { text: plain, kind: props.kind, default_unit: fallback },
  })
  if (ask !== asked) return null
  if (!answer.data) {
    refusal.value = sentence(answer.error)
    return null
  }
  const found = answer.data
  refusal.value = found.ok ? '' : unitText(found.message)
  if (!found.ok || !found.quantity) {
    understood.value = ''
    return null
  }
  const si = found.si ?? 0
  const sameDimension = props.kind !== 'flow' || (found.si_unit === 'kg/s') === /^(kg|t|lb)\//.test(unit.value)
  const kind = sameDimension ? props.kind : found.si_unit === 'kg/s' ? 'mass_flow' : 'mole_flow'
  const shown = sameDimension ? unit.value : catalogue.displayUnit(kind, plant.unitSet)
  const number = numberText(catalogue.shown(si, kind, shown), 7)
  understood.value = `understood as ${number} ${unitText(shown)}`.trim()
  known = { text: value, quantity: found.quantity }
  return found.quantity
}
const preview = useDebounceFn((value: string) => {
  // A quick Enter comes before this; what it takes must not be overtaken by a preview.
  if (!finishing && draft.value === value && value.trim()) void parse(value)
}, 120)

function typed(event: Event) {
  draft.value = (event.target as HTMLInputElement).value
  refusal.value = ''
  understood.value = ''
  void preview(draft.value)
}

async function finish() {
  const value = draft.value
  if (finishing) return
  if (value === null || value === reading.value) {
    draft.value = null
    understood.value = ''
    return
  }
  finishing = true
  try {
    if (!value.trim()) {
      asked += 1
      refusal.value = props.given ? await props.commit(null) : ''
      understood.value = ''
      if (!refusal.value) draft.value = null
      return
    }
    const quantity = await parse(value)
    if (!quantity) return
    if (quantity.value === props.given?.value && (quantity.unit ?? '') === (props.given.unit ?? '')) {
      draft.value = null
      understood.value = ''
      return
    }
    refusal.value = await props.commit(quantity)
    understood.value = ''
    if (!refusal.value) draft.value = null
  } catch (error) {
    refusal.value = sentence(error)
  } finally {
    finishing = false
  }
}
/** Take what was typed and go on to the next value, as Tab would; back to this one where it is refused and nobody types there yet. */
async function enter(event: KeyboardEvent) {
  const here = event.target as HTMLInputElement
  const scope = here.closest('aside, table, form, [role=dialog]')
  const all = [...(scope?.querySelectorAll<HTMLInputElement>(FIELDS) ?? [])]
  const next = all[all.indexOf(here) + 1]
  const done = finish()
  next?.focus()
  const untouched = next?.value
  await done
  if (refusal.value && window.document.activeElement === next && next?.value === untouched) here.focus()
}
/** Forget what was typed and give the keys back to the sheet. */
function abandon(event: KeyboardEvent) {
  asked += 1
  draft.value = null
  refusal.value = ''
  understood.value = ''
  ;(event.target as HTMLInputElement).blur()
}
</script>

<template>
  <div class="py-[2px]">
    <div class="group grid items-center gap-2" :class="bare ? '' : 'grid-cols-[minmax(0,1fr)_132px]'">
      <div v-if="!bare" class="relative min-w-0">
        <label :for="id" class="leading-[1.2]" :title="help || label">{{ label }}</label>
        <span
          v-if="$slots.default"
          class="absolute right-0 bottom-0 hidden gap-2 bg-paper pl-2 group-focus-within:flex group-hover:flex"
        >
          <slot />
        </span>
      </div>
      <input
        :id="id"
        class="input py-[2px]! text-right"
        :aria-label="bare ? label : undefined"
        :class="[look, stale && !given ? 'text-ink3 italic' : '', refusal ? 'border-warn!' : '']"
        :value="text"
        :disabled="disabled"
        :aria-invalid="refusal ? 'true' : undefined"
        :aria-describedby="refusal || understood ? id + '-note' : undefined"
        :placeholder="disabled ? '' : unitText(unit) || 'value'"
        autocomplete="off"
        spellcheck="false"
        @input="typed"
        @focus="($event.target as HTMLInputElement).select()"
        @blur="finish"
        @keydown.enter.prevent="enter"
        @keydown.esc.stop="abandon"
      />
    </div>
    <p
      v-if="refusal"
      :id="id + '-note'"
      role="alert"
      class="mt-1 border-l-2 border-warn bg-warnsoft px-2 py-1 text-[12px]"
    >
      {{ refusal }}
    </p>
    <p v-else-if="understood" :id="id + '-note'" class="mt-[2px] text-right text-[11.5px] text-ink2">
      {{ understood }}
    </p>
    <p v-else-if="aim" class="text-right text-[12px] font-semibold text-act">{{ aim }}</p>
    <p v-else-if="converted && !bare" class="text-right text-[11.5px] text-ink2">{{ converted }}</p>
  </div>
</template>
