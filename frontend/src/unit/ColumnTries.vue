<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api, sentence, type Edit, type Schemas, type Unit } from '../api/client'
import Working from '../app/Working.vue'
import DiagramChart from '../diagrams/DiagramChart.vue'
import { usePlant } from '../stores/plant'
import { useQuestion } from '../stores/question'
import { diagramOf, panelsOf } from './panels'
import { useShower } from './shower'

/** A column with each of its feeds on other stages, or with other numbers of stages, tried on request. */
const props = defineProps<{ unit: Unit }>()
const plant = usePlant()
const show = useShower()
const work = useQuestion()
const refusal = ref('')
const found = shallowRef<Schemas['ColumnStudyOut'] | null>(null)
/** What was found holds for the revision that it was asked of. */
const asked = ref(0)
const feeds = computed(() =>
  (plant.document?.streams ?? [])
    .filter((s) => s.target.unit === props.unit.tag && s.target.port === 'inlet')
    .map((s) => s.tag),
)
const diagrams = computed(() => {
  const profile = found.value?.profile
  return profile ? panelsOf(profile, show.value).map((panel) => diagramOf(profile, panel)) : []
})
watch(
  () => plant.revision,
  () => {
    if (asked.value !== plant.revision) found.value = null
  },
)
async function ask(stream: string) {
  const id = plant.variant?.id
  if (!id) return
  const mine = work.begin()
  ;[refusal.value, found.value, asked.value] = ['', null, plant.revision]
  const reply = await api.POST('/api/variants/{variant_id}/column-study', {
    params: { path: { variant_id: id } },
    body: { token: mine, unit: props.unit.tag, stream },
  })
  if (!work.ended(mine)) return
  refusal.value = reply.data ? '' : sentence(reply.error)
  found.value = reply.data ?? null
}
</script>

<template>
  <section aria-label="Try other stages" class="px-4 pb-3">
    <h3 class="head pt-3 pb-1">Try</h3>
    <Working v-if="work.busy.value" text="Calculating the column again" :share="work.share.value" @stop="work.stop" />
    <div v-else class="flex flex-wrap gap-x-4 gap-y-1">
      <button v-for="tag in feeds" :key="tag" type="button" class="link" :disabled="!plant.current" @click="ask(tag)">
        {{ tag }} on other stages
      </button>
      <button type="button" class="link" :disabled="!plant.current" @click="ask('')">Other numbers of stages</button>
    </div>
    <p v-if="refusal" role="alert" class="pt-1 text-warn">{{ refusal }}</p>
    <div v-if="found" aria-live="polite">
      <p class="pt-1" data-test="tried">{{ found.text }}</p>
      <button
        v-if="found.edit && plant.editable"
        type="button"
        class="btn mt-1"
        @click="plant.edit(found.edit as unknown as Edit)"
      >
        Put {{ found.stream }} on stage {{ found.best }}
      </button>
      <div v-for="d in diagrams" :key="d.title" class="h-[230px] pt-2">
        <DiagramChart :diagrams="[d]" />
      </div>
    </div>
  </section>
</template>
