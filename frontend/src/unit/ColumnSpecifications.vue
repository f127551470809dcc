<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api, type Edit, type Schemas, type Unit } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import { useShower } from './shower'

type Specification = Schemas['ColumnSpecificationOut']
/** What specifies a column and what could, with what each is now; one that waits may take the place of one that counts. */
const props = defineProps<{ unit: Unit }>()
const plant = usePlant()
const catalogue = useCatalogue()
const show = useShower()
const found = shallowRef<Schemas['ColumnSpecificationsOut'] | null>(null)
const refusal = ref('')
/** Which of those that count goes where all are taken. */
const goes = ref(0)
let asked = 0
const active = computed(() => found.value?.all.filter((one) => one.active) ?? [])
const waiting = computed(() => found.value?.all.filter((one) => !one.active) ?? [])
const room = computed(() => (found.value?.taken ?? 0) - active.value.length)
/** What is shown belongs to the plant as it stands. */
const fresh = computed(() => plant.current)

watch(
  [() => props.unit.tag, () => plant.revision, () => plant.answer?.kind === 'result' && plant.answer.revision],
  async () => {
    const id = plant.variant?.id
    if (!id) return
    const mine = ++asked
    const reply = await api.GET('/api/variants/{variant_id}/specifications', {
      params: { path: { variant_id: id }, query: { unit: props.unit.tag } },
    })
    if (mine === asked && reply.data) found.value = reply.data
  },
  { immediate: true },
)
function text(si: number | null | undefined, kind: string): string {
  return si == null ? '–' : numberText(show.value.shown(si, kind), 6)
}
/** Why it is not met, or that it is; nothing where nothing is known. */
function mark(one: Specification): string {
  return one.met == null || !fresh.value ? '' : one.met ? 'met' : 'missed'
}
/** The edit that takes one in: a field with what it is now, in the unit it is shown in. */
function takeIn(one: Specification): Edit {
  if (!one.field) return one.take_in as unknown as Edit
  const unit = catalogue.displayUnit(one.kind, plant.unitSet)
  const value = Number(show.value.shown(one.now!, one.kind).toPrecision(12))
  return { kind: 'set_values', unit: props.unit.tag, values: { [one.field]: { value, unit } } }
}
async function specify(one: Specification) {
  const instead = room.value > 0 ? undefined : (active.value[goes.value] ?? active.value[0])
  const edits = [...(instead ? [instead.take_out as unknown as Edit] : []), takeIn(one)]
  const label = `${props.unit.tag}: ${one.text.toLowerCase()} specified`
  refusal.value = await plant.edit(edits.length > 1 ? ({ kind: 'batch', edits, label } as Edit) : edits[0]!)
}
async function release(one: Specification) {
  refusal.value = await plant.edit(one.take_out as unknown as Edit)
}
/** A field is taken in with what it is; a row with what was typed, or what it is. */
function able(one: Specification): boolean {
  const possible = room.value > 0 || active.value.length > 0
  return possible && plant.editable && plant.current && (one.now != null || (!one.field && one.wanted != null))
}
</script>

<template>
  <section v-if="found?.taken || active.length" aria-label="Specifications" class="px-4 pb-3">
    <h3 class="head pt-3 pb-1">Specifications: {{ active.length }} of {{ found?.taken }}</h3>
    <div :class="fresh ? '' : 'opacity-60'">
      <div v-for="(one, k) in active" :key="k" class="py-[2px]" data-test="active">
        <div class="flex items-baseline gap-2">
          <span class="flex-1">{{ one.text }}</span>
          <button
            v-if="plant.editable"
            class="link text-[12px]"
            :aria-label="`Release ${one.text.toLowerCase()}`"
            @click="release(one)"
          >
            Release
          </button>
        </div>
        <div class="flex gap-3 text-[12px] text-ink2">
          <span>wanted {{ text(one.wanted, one.kind) }}</span>
          <span>now {{ text(one.now, one.kind) }}</span>
          <span>{{ unitText(show.displayUnit(one.kind)) }}</span>
          <span v-if="mark(one)" :class="one.met ? '' : 'text-warn'">{{ mark(one) }}</span>
        </div>
      </div>
      <p v-if="waiting.length" class="pt-2 text-[12px] text-ink2">What else could be specified</p>
      <label
        v-if="waiting.length && room <= 0 && active.length > 1 && plant.editable"
        class="flex items-center gap-2 pb-1 text-[12px] whitespace-nowrap text-ink2"
      >
        instead of
        <select v-model="goes" class="input min-w-0 flex-1 py-0! text-[12px]" name="goes">
          <option v-for="(other, k) in active" :key="k" :value="k">{{ other.text }}</option>
        </select>
      </label>
      <div
        v-for="(one, k) in waiting"
        :key="k"
        class="flex items-baseline gap-2 py-[1px]"
        :title="one.wanted == null ? undefined : `Wanted, if it is specified: ${text(one.wanted, one.kind)}`"
        data-test="waiting"
      >
        <span class="flex-1">{{ one.text }}</span>
        <span>{{ text(one.now, one.kind) }}</span>
        <span class="min-w-[44px] text-ink2">{{ unitText(show.displayUnit(one.kind)) }}</span>
        <button
          v-if="able(one)"
          class="link text-[12px]"
          :aria-label="`Specify ${one.text.toLowerCase()}`"
          @click="specify(one)"
        >
          Specify
        </button>
      </div>
    </div>
    <p v-if="refusal" role="alert" class="pt-1 text-warn">{{ refusal }}</p>
  </section>
</template>
