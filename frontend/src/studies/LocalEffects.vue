<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api, sentence, type Schemas } from '../api/client'
import MessageLine from '../app/MessageLine.vue'
import Working from '../app/Working.vue'
import { numberText, unitText } from '../quantities/format'
import { liesIn } from '../sheet/canvas/areaSheet'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import { useQuestion } from '../stores/question'
import { useOffered } from './offered'

/** How much a result moves with each value that is typed, what matters most first. */
const plant = usePlant()
const catalogue = useCatalogue()
const offered = useOffered()
const work = useQuestion()
const formula = ref('')
const area = ref('')
const message = ref('')
const found = shallowRef<Schemas['LocalEffectsOut'] | null>(null)
const areas = computed(() => plant.document?.areas ?? [])
const largest = computed(() => Math.max(...(found.value?.effects ?? []).map((e) => Math.abs(e.change ?? 0)), 1e-300))
/** What was found holds for the plant that it was asked of. */
watch(
  () => plant.revision,
  () => (found.value = null),
)

function units(): string[] {
  const chosen = areas.value.find((one) => one.name === area.value)
  if (!chosen) return []
  const placed = (plant.document?.units ?? []).map((unit) => ({
    unit,
    type: catalogue.type(unit.type),
    x: unit.x ?? 0,
    y: unit.y ?? 0,
  }))
  return placed.filter((one) => liesIn(chosen, one)).map((one) => one.unit.tag)
}
async function ask() {
  if (!plant.variant || !formula.value.trim()) return
  const token = work.begin()
  ;[message.value, found.value] = ['', null]
  const reply = await api.POST('/api/variants/{variant_id}/local-effects', {
    params: { path: { variant_id: plant.variant.id } },
    body: { formula: formula.value.trim(), units: units(), token },
  })
  if (!work.ended(token)) return
  message.value = reply.data ? '' : sentence(reply.error)
  found.value = reply.data ?? null
}
/** A value, or with `change` a difference of two, in the unit of the plant. */
function told(value: number, kind: string | null, si: string, change = false): string {
  const unit = kind ? catalogue.displayUnit(kind, plant.unitSet) : si
  const factor = catalogue.data?.kinds[kind ?? '']?.units.find((u) => u.name === unit)?.factor ?? 1
  const number = change ? value / factor : kind ? catalogue.shown(value, kind, unit) : value
  return `${change && number > 0 ? '+' : ''}${numberText(number, change ? 4 : 6)} ${unitText(unit)}`.trim()
}
</script>

<template>
  <section aria-label="What matters most">
    <h2 class="mb-1 text-[16px] font-semibold">What matters most</h2>
    <p class="mb-3 max-w-[780px] text-ink2">
      Each value that is typed is raised a little, by 1 %, 1 K, 0.01 of a fraction or one piece, and the plant is
      calculated again, recycles and aims included.
    </p>
    <form class="mb-4 flex flex-wrap items-end gap-4" @submit.prevent="ask">
      <label
        ><span class="block text-ink2">Result, or a formula over results</span>
        <input
          v-model="formula"
          class="input w-[340px]"
          name="effects-on"
          list="effect-values"
          maxlength="300"
          required
        />
      </label>
      <label v-if="areas.length"
        ><span class="block text-ink2">Values of</span>
        <select v-model="area" class="input w-[190px]" name="effects-of">
          <option value="">the whole plant</option>
          <option v-for="one in areas" :key="one.name">{{ one.name }}</option>
        </select>
      </label>
      <button class="btn btn-main" :disabled="work.busy.value">Ask</button>
      <Working v-if="work.busy.value" text="Moving each value" :share="work.share.value" @stop="work.stop" />
    </form>
    <datalist id="effect-values"><option v-for="text in offered" :key="text" :value="text" /></datalist>
    <MessageLine class="mb-3" :text="message" />
    <template v-if="found">
      <p class="mb-2">
        {{ found.formula }} is now <b class="font-semibold">{{ told(found.value, found.kind, found.si) }}</b>
      </p>
      <table class="w-full max-w-[1100px]" data-test="effects">
        <thead>
          <tr class="border-b border-rule text-left">
            <th scope="col" class="head">Value</th>
            <th scope="col" class="head w-[130px] text-right!">Now</th>
            <th scope="col" class="head w-[120px] text-right!">Raised by</th>
            <th scope="col" class="head w-[150px] text-right!">Moves the result by</th>
            <td class="w-[300px]"></td>
          </tr>
        </thead>
        <tbody>
          <tr v-for="e in found.effects" :key="e.unit + e.field" class="border-b border-rule2 align-baseline">
            <td class="py-[3px]">
              <b class="tag font-medium">{{ e.unit }}</b> {{ e.title }}
            </td>
            <td class="text-right">{{ told(e.value, e.kind, e.si) }}</td>
            <td class="text-right">{{ told(e.step, e.kind, e.si, true) }}</td>
            <td v-if="e.change != null" class="text-right">{{ told(e.change, found.kind, found.si, true) }}</td>
            <td v-else colspan="2" class="pl-4 text-warn">{{ e.problem }}</td>
            <td v-if="e.change != null" class="pl-4">
              <div
                class="h-[10px]"
                :class="e.change < 0 ? 'bg-warn' : 'bg-act'"
                :style="{ width: `${(100 * Math.abs(e.change)) / largest}%` }"
              />
            </td>
          </tr>
        </tbody>
      </table>
      <p class="pt-2 text-[12px] text-ink2">Green: the result rises with the value; brown: it falls.</p>
    </template>
  </section>
</template>
