<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, sentence, type AssumptionInfluence } from '../../api/client'
import Working from '../../app/Working.vue'
import { typedText, unitText } from '../../quantities/format'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useQuestion } from '../../stores/question'

/** Every value that nobody gave: where, why, how much it matters, and the way to the field where it is given. */
const plant = usePlant()
const catalogue = useCatalogue()
const emit = defineEmits<{ go: [place: string, field: string | null] }>()
const assumptions = computed(() => plant.result?.assumptions ?? [])
const work = useQuestion()
const influences = ref<AssumptionInfluence[]>([])
const note = ref('')
watch(
  () => plant.revision,
  () => (influences.value = []),
)
/** Has the plant calculated again with every assumed value moved. */
async function weigh() {
  if (!plant.variant) return
  const token = work.begin()
  const params = { path: { variant_id: plant.variant.id } }
  const reply = await api.POST('/api/variants/{variant_id}/assumption-influence', { params, body: { token } })
  if (!work.ended(token)) return
  influences.value = reply.data?.influences ?? []
  note.value = reply.data ? '' : sentence(reply.error)
}
const found = (place: string, field: string) => influences.value.find((i) => i.place === place && i.field === field)
/** What matters most first, once that is known. */
const listed = computed(() => {
  const rank = (place: string, field: string) =>
    influences.value.findIndex((i) => i.place === place && i.field === field) >>> 0
  return [...assumptions.value].sort((a, b) => rank(a.place, a.field) - rank(b.place, b.field))
})
function effect(place: string, field: string): string {
  const one = found(place, field)
  if (!one) return ''
  const moved = `at ${typedText(one.moved.value)} ${unitText(one.moved.unit ?? '')}`.trim()
  const most = one.results[0]
  if (!most) return `${moved}: ${one.problem}`
  const told = (value: number) => catalogue.told(value, most.kind, plant.unitSet)
  return one.share < 1e-9
    ? `${moved}: nothing that is watched changes`
    : `${moved}: ${most.name} ${told(most.before)} → ${told(most.after)}, ${(100 * one.share).toPrecision(2)} %`
}
</script>

<template>
  <div class="h-full overflow-auto px-4 py-2">
    <p v-if="!assumptions.length" class="text-ink2">Every value was given by a person.</p>
    <template v-else>
      <div class="mb-1 flex items-center gap-3">
        <button v-if="!work.busy.value" class="link" @click="weigh">How far do they matter?</button>
        <Working v-else text="Calculating with each moved" :share="work.share.value" @stop="work.stop" />
        <span v-if="influences.length" class="text-ink2">
          Each moved alone; watched are the {{ plant.document?.pins?.length ? 'pins' : 'products' }}.
        </span>
        <span v-if="note" role="status" class="text-ink2">{{ note }}</span>
      </div>
      <table class="w-full" data-test="assumptions">
        <thead>
          <tr class="border-b border-rule text-left">
            <th scope="col" class="head w-[88px]">Where</th>
            <th scope="col" class="head">Assumed</th>
            <th scope="col" class="head">Why</th>
            <th scope="col" v-if="influences.length" class="head">What changes most</th>
            <th scope="col"><span class="sr-only">Give</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="a in listed" :key="a.place + a.field + a.title" class="border-b border-rule2 align-baseline">
            <td class="py-[4px]">
              <button class="link tag" @click="emit('go', a.place, null)">{{ a.place }}</button>
            </td>
            <td class="pr-4">
              {{ a.title }} =
              <b class="font-medium text-assumed"
                >{{ typeof a.value === 'string' ? a.value : typedText(a.value) }} {{ unitText(a.unit) }}</b
              >
            </td>
            <td class="pr-4 text-ink2">{{ a.reason }}</td>
            <td v-if="influences.length" class="pr-4">{{ effect(a.place, a.field) }}</td>
            <td class="text-right">
              <button
                v-if="plant.editable"
                class="link whitespace-nowrap"
                :aria-label="`Give ${a.title} of ${a.place}`"
                @click="emit('go', a.place, a.field)"
              >
                Give it
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>
