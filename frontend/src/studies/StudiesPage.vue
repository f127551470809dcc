<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, sentence, type Schemas } from '../api/client'
import MessageLine from '../app/MessageLine.vue'
import { usePlant } from '../stores/plant'
import LocalEffects from './LocalEffects.vue'
import StudyAnswer from './StudyAnswer.vue'
import StudyEditor from './StudyEditor.vue'

/** The studies of a plant, what each asks, and its newest answer. */
const route = useRoute()
const router = useRouter()
const plant = usePlant()
const heads = shallowRef<Schemas['StudyAnswerHead'][]>([])
const message = ref('')
const studies = computed(() => plant.document?.studies ?? [])
const chosen = computed(() => studies.value.find((s) => s.name === route.query.study) ?? studies.value[0])
/** Not a study that is kept: what matters most is asked at once. */
const effects = computed(() => route.query.effects !== undefined)
const newest = (name: string) => heads.value.find((head) => head.name === name)
function state(name: string): string {
  const head = newest(name)
  if (!head) return 'not asked yet'
  const news = plant.studies.get(head.id)
  const now = news?.state ?? head.state
  if (now === 'running') {
    const { done, planned } = news ?? { done: head.cases, planned: head.planned }
    return planned ? `calculating, ${Math.round((100 * done) / planned)} %` : 'calculating'
  }
  if (now === 'failed') return 'not answered'
  if (now !== 'done') return now
  return head.current ? 'in date' : 'out of date'
}
const choose = (name: string) => router.replace({ query: { study: name } })

async function load() {
  if (!plant.variant) return
  const params = { path: { variant_id: plant.variant.id } }
  const answer = await api.GET('/api/variants/{variant_id}/study-answers', { params })
  heads.value = answer.data ?? []
  message.value = answer.data ? '' : sentence(answer.error)
}
/** The studies whose state is another than it was, by whoever asked them. */
const states = computed(() => [...plant.studies.values()].map((news) => `${news.answer} ${news.state}`).join('|'))
watch(() => [plant.variant?.id, plant.revision, states.value], load, { immediate: true })

async function add() {
  const names = new Set(studies.value.map((s) => s.name))
  let number = studies.value.length + 1
  while (names.has(`Study ${number}`)) number++
  const name = `Study ${number}`
  message.value = await plant.edit({ kind: 'set_study', name, study: { name, inputs: [], outputs: [] } as never })
  if (!message.value) await choose(name)
}
</script>

<template>
  <main class="grid min-h-0 grid-cols-[240px_1fr]">
    <nav aria-label="Studies" class="min-h-0 overflow-auto border-r border-rule px-4 py-4">
      <h1 class="head mb-2">Studies</h1>
      <ul class="mb-3">
        <li v-for="study in studies" :key="study.name">
          <button
            type="button"
            class="block w-full border-l-2 px-2 py-[5px] text-left hover:bg-wash"
            :class="study.name === chosen?.name && !effects ? 'border-act font-semibold' : 'border-transparent'"
            :aria-current="study.name === chosen?.name && !effects"
            @click="choose(study.name)"
          >
            {{ study.name }}
            <span class="block text-[12px] font-normal text-ink2" data-test="study-state">{{ state(study.name) }}</span>
          </button>
        </li>
      </ul>
      <p v-if="!studies.length" class="mb-3 text-ink2">
        A study varies what is given and shows what comes of it. There is none yet.
      </p>
      <button v-if="plant.editable" type="button" class="btn" @click="add">New study</button>
      <button
        type="button"
        class="mt-5 block w-full border-l-2 px-2 py-[5px] text-left hover:bg-wash"
        :class="effects ? 'border-act font-semibold' : 'border-transparent'"
        :aria-current="effects"
        @click="router.replace({ query: { effects: '' } })"
      >
        What matters most
      </button>
      <MessageLine class="mt-3" :text="message" />
    </nav>
    <div v-if="effects" class="min-h-0 overflow-auto px-6 py-4"><LocalEffects /></div>
    <div v-else-if="chosen" :key="chosen.name" class="min-h-0 overflow-auto px-6 py-4">
      <StudyEditor :study="chosen" @renamed="choose" />
      <StudyAnswer :study="chosen" :heads="heads.filter((head) => head.name === chosen!.name)" @answered="load" />
    </div>
  </main>
</template>
