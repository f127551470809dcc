<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import { numberText, unitText } from '../quantities/format'
import { inFormula } from '../stores/aims'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'

/** Values kept in sight, each with its change since the calculation before. A pin is a formula over results under a name. */
const plant = usePlant()
const catalogue = useCatalogue()
const editing = ref(false)
const name = ref('')
const formula = ref('')
const refusal = ref('')

/** Values to compare with, kept on this computer: by pin, SI. */
const references = useLocalStorage<Record<string, Record<string, number>>>('wattaxis-references', {})
const reference = computed(() => references.value[String(plant.variant?.id)] ?? {})
const marked = computed(() => Object.keys(reference.value).length > 0)
function mark(on: boolean) {
  const now = Object.fromEntries(
    (plant.result?.pins ?? []).flatMap((p) => (p.value == null ? [] : [[p.name, p.value]])),
  )
  const rest = { ...references.value }
  delete rest[String(plant.variant?.id)]
  references.value = on ? { ...rest, [String(plant.variant?.id)]: now } : rest
}
const pins = computed(() => plant.document?.pins ?? [])
const shown = computed(() =>
  pins.value.map((pin) => {
    const now = plant.result?.pins?.find((p) => p.name === pin.name)
    const value = now?.value ?? null
    const before = plant.pinsBefore.get(pin.name)
    const unit = now?.kind ? catalogue.displayUnit(now.kind, plant.unitSet) : (now?.unit ?? '')
    const seen = (si: number) => (now?.kind ? catalogue.shown(si, now.kind, unit) : si)
    const moved = value !== null && before != null ? seen(value) - seen(before) : 0
    // What is left of the last digits is no change.
    const change = Math.abs(moved) > 1e-9 * Math.abs(value === null ? 0 : seen(value)) ? moved : 0
    const mark = reference.value[pin.name]
    const since = value === null || mark === undefined ? null : seen(value) - seen(mark)
    return { ...pin, value: value === null ? null : seen(value), unit, change, since, problem: now?.problem ?? '' }
  }),
)
const offered = computed(() => {
  const tag = plant.selected
  if (!tag) return []
  if (plant.stream(tag))
    return ['temperature', 'mass_flow', 'mole_flow', 'vapour_fraction'].map((k) => `${inFormula(tag)}.${k}`)
  return (plant.result?.units[tag]?.values ?? []).map((v) => `${inFormula(tag)}.${v.key}`)
})

function change(pin?: { name: string; formula: string }) {
  editing.value = true
  name.value = pin?.name ?? ''
  formula.value = pin?.formula ?? offered.value[0] ?? ''
  refusal.value = ''
}
async function keep() {
  refusal.value = await plant.edit({
    kind: 'set_pin',
    name: name.value.trim() || formula.value,
    formula: formula.value,
  })
  if (!refusal.value) editing.value = false
}
async function remove() {
  refusal.value = await plant.edit({ kind: 'set_pin', name: name.value })
  if (!refusal.value) editing.value = false
}
function sign(value: number): string {
  return (value > 0 ? '+' : '') + numberText(value, 3)
}
</script>

<template>
  <section class="relative border-b border-rule2 px-3 text-[12.5px]" aria-label="Pins">
    <div class="flex max-h-[62px] min-h-[34px] flex-wrap items-center gap-x-4 overflow-y-auto py-1 whitespace-nowrap">
      <button
        v-for="pin in shown"
        :key="pin.name"
        class="flex items-baseline gap-[6px]"
        :title="pin.formula"
        :disabled="!plant.editable"
        :data-pin="pin.name"
        @click="change(pin)"
      >
        <span class="text-ink2">{{ pin.name }}</span>
        <span v-if="pin.problem" class="text-warn">{{ pin.problem }}</span>
        <b v-else class="font-semibold" :class="plant.current ? '' : 'text-ink3'">{{
          pin.value === null ? '–' : numberText(pin.value)
        }}</b>
        <span class="text-[11.5px] text-ink2">{{ unitText(pin.unit) }}</span>
        <span v-if="pin.change" class="text-[11.5px] text-act" title="since the calculation before">{{
          sign(pin.change)
        }}</span>
        <span v-if="pin.since !== null" class="text-[11.5px] text-ink2" title="against the reference"
          >({{ sign(pin.since) }})</span
        >
      </button>
      <span v-if="!pins.length" class="text-ink2"
        >Pin the values that you watch: they stand here with their change.</span
      >
      <button v-if="plant.editable" class="link" @click="change()">Add a pin</button>
      <button
        v-if="pins.length"
        class="link"
        title="Show every change against the values of now"
        @click="mark(!marked)"
      >
        {{ marked ? 'Drop the reference' : 'Take as reference' }}
      </button>
    </div>
    <form
      v-if="editing"
      class="absolute inset-x-0 top-full z-10 flex flex-wrap items-end gap-2 border-b border-rule bg-paper px-3 py-2 shadow"
      @submit.prevent="keep"
    >
      <label class="w-[190px]">
        <span class="block text-ink2">Name</span>
        <input v-model="name" class="input" name="pin-name" maxlength="60" placeholder="Yield of butanone" />
      </label>
      <label class="flex-1">
        <span class="block text-ink2">Formula, such as S-14.mass_flow / S-01.mass_flow</span>
        <input v-model="formula" class="input" name="pin-formula" list="pin-names" maxlength="300" required />
      </label>
      <datalist id="pin-names"><option v-for="text in offered" :key="text" :value="text" /></datalist>
      <button class="btn btn-main">Keep</button>
      <button v-if="pins.some((p) => p.name === name)" type="button" class="btn" @click="remove">Unpin</button>
      <button type="button" class="btn" @click="editing = false">Cancel</button>
      <p v-if="refusal" role="alert" class="w-full border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
    </form>
  </section>
</template>
