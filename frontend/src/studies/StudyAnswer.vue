<script setup lang="ts">
import { useThrottleFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, sentence, type Diagram, type Schemas } from '../api/client'
import MessageLine from '../app/MessageLine.vue'
import DiagramChart from '../diagrams/DiagramChart.vue'
import { numberText, unitText } from '../quantities/format'
import { usePlant } from '../stores/plant'
import { diagramsOf } from './answer'
import { contoursOf, gridOf } from './contours'
import OptimumView from './OptimumView.vue'
import ParallelPlot from './ParallelPlot.vue'
import { useShown } from './shown'
import SpreadView from './SpreadView.vue'

/** The newest answer to a study, as pictures and as a table; asked again with a click. */
const props = defineProps<{ study: Schemas['Study']; heads: Schemas['StudyAnswerHead'][] }>()
const emit = defineEmits<{ answered: [] }>()
const router = useRouter()
const plant = usePlant()
const message = ref('')
const answer = shallowRef<Schemas['StudyAnswerOut'] | null>(null)
/** Rows of the table that are shown. */
const MOST = 500
const result = computed(() => answer.value?.result ?? null)
const columns = computed(() => [...(result.value?.inputs ?? []), ...(result.value?.outputs ?? [])])
const { unit, number, told, withUnit } = useShown()
/** Of a grid of two inputs the lines of equal value can be drawn. */
const contoured = ref(false)
const grid = computed(() => result.value !== null && gridOf(result.value) !== null)
function drawn(k: number): Diagram[] {
  const column = result.value!.outputs[k]!
  if (!grid.value || !contoured.value) return diagramsOf(result.value!, k, withUnit)
  const shown = (value: number) => number(value, column)
  const named = (level: number) => `${numberText(level, 6)} ${unitText(unit(column))}`.trim()
  const lines = contoursOf(result.value!, k, shown, named)
  return lines ? [lines] : []
}
const diagrams = computed(() =>
  result.value?.optimum || result.value?.spread?.length
    ? []
    : (result.value?.outputs ?? []).flatMap((_, k) => drawn(k)),
)
/** Cases that were chosen by ranges of values; null where all are shown. */
const chosen = ref<number[] | null>(null)
const many = computed(() => (result.value?.inputs.length ?? 0) + (result.value?.outputs.length ?? 0) > 2)
const shown = computed(() => {
  const cases = result.value?.cases ?? []
  const only = chosen.value && new Set(chosen.value)
  return only ? cases.filter((one) => only.has(one.number)) : cases
})
const rows = computed(() =>
  shown.value.slice(0, MOST).map((one) => ({
    number: one.number + 1,
    cells: [...one.inputs, ...one.outputs].map((value, k) => told(value, columns.value[k]!)),
    remark: one.faults[0] ?? one.problems.find((text) => text) ?? '',
  })),
)
const file = computed(() => `/api/variants/${plant.variant?.id}/study-answers/${answer.value?.id}/csv`)
/** The newest answer; one that failed leaves the one before in sight. */
const newest = computed(() => props.heads[0])
const head = computed(() => props.heads.find((one) => one.state !== 'failed'))
const news = computed(() => (head.value ? plant.studies.get(head.value.id) : undefined))
const state = computed(() => news.value?.state ?? head.value?.state ?? '')
const running = computed(() => state.value === 'running')
const unfinished = computed(() => ['running', 'paused', 'stopped'].includes(state.value))
const done = computed(() => news.value?.done ?? head.value?.cases ?? 0)
const planned = computed(() => news.value?.planned ?? head.value?.planned ?? null)
function duration(seconds: number): string {
  if (seconds < 90) return `${Math.max(Math.round(seconds), 1)} s`
  return seconds < 5400 ? `${Math.round(seconds / 60)} min` : `${(seconds / 3600).toFixed(1)} h`
}
const progress = computed(() => {
  const cases = planned.value ? `${done.value} of ${planned.value} cases` : 'Calculating'
  const left = running.value && news.value?.left ? `, ${duration(news.value.left)} left` : ''
  return running.value ? `${cases}${left}` : `${state.value}, ${cases}`
})
const when = computed(() => {
  const one = answer.value
  if (!one || one.state !== 'done') return ''
  const at = new Date(one.created).toLocaleString()
  const failed = one.failed ? `, ${one.failed} without an answer` : ''
  return `${one.cases} cases${failed}, in ${one.seconds.toFixed(1)} s, by ${one.author || 'somebody'}, ${at}, revision ${one.revision}`
})

let asking = false
async function load(id: number): Promise<void> {
  if (!plant.variant || asking) return
  asking = true
  const params = { path: { variant_id: plant.variant.id, answer_id: id } }
  const reply = await api.GET('/api/variants/{variant_id}/study-answers/{answer_id}', { params })
  asking = false
  if (head.value && head.value.id !== id) return load(head.value.id)
  // What is there stays in sight until the new answer has something to show.
  if (reply.data && (reply.data.cases || !answer.value)) answer.value = reply.data
  else if (!reply.data) message.value = sentence(reply.error)
}
/** While cases arrive, the pictures grow every two seconds. */
const grow = useThrottleFn((id: number) => load(id), 2000, true)
watch(
  () => [head.value?.id, state.value] as const,
  ([id]) => id && void load(id),
  { immediate: true },
)
watch(
  () => [newest.value?.id, newest.value?.state],
  () => (message.value = newest.value?.state === 'failed' ? newest.value.text : ''),
  { immediate: true },
)
watch(done, (count, before) => head.value && running.value && count > before && void grow(head.value.id))
async function ask() {
  if (!plant.variant) return
  message.value = ''
  const reply = await api.POST('/api/variants/{variant_id}/study-answers', {
    params: { path: { variant_id: plant.variant.id } },
    body: { name: props.study.name },
  })
  message.value = reply.data ? '' : sentence(reply.error)
  if (reply.data) emit('answered')
}
async function become(wanted: 'running' | 'paused' | 'stopped') {
  if (!plant.variant || !head.value) return
  const reply = await api.POST('/api/variants/{variant_id}/study-answers/{answer_id}/state', {
    params: { path: { variant_id: plant.variant.id, answer_id: head.value.id } },
    body: { state: wanted },
  })
  message.value = reply.data ? '' : sentence(reply.error)
  if (reply.data) plant.studies.delete(head.value.id)
  emit('answered')
}
/** The plant of a case as a variant of its own, opened. */
async function open(number: number) {
  if (!plant.variant || !answer.value) return
  const reply = await api.POST('/api/variants/{variant_id}/study-answers/{answer_id}/variant', {
    params: { path: { variant_id: plant.variant.id, answer_id: answer.value.id } },
    body: { case: number },
  })
  message.value = reply.data ? '' : sentence(reply.error)
  if (reply.data) await router.push(`/plant/${reply.data.id}/sheet`)
}
/** Cases that are to be laid beside the plant as it stands, or beside each other. */
const picked = ref<number[]>([])
const COMPARED = 5
watch(
  () => answer.value?.id,
  () => (picked.value = []),
)
const comparison = computed(() => ({
  path: `/plant/${plant.variant?.id}/compare`,
  query: { with: picked.value.map((k) => `${answer.value?.id}:${k}`).join() },
}))
</script>

<template>
  <section aria-label="Answer">
    <div class="mb-3 flex flex-wrap items-center gap-4">
      <button v-if="plant.editable" type="button" class="btn btn-main" :disabled="running" @click="ask">
        {{ answer?.cases ? 'Ask again' : 'Ask' }}
      </button>
      <div v-if="unfinished" role="status" class="flex items-center gap-3 text-[12px]" data-test="progress">
        <span>{{ progress }}</span>
        <progress
          v-if="planned"
          class="h-[6px] w-[140px] accent-[var(--act)]"
          :max="planned"
          :value="done"
          aria-label="Cases"
        />
        <template v-if="plant.editable">
          <button v-if="running" type="button" class="btn py-[1px]!" @click="become('paused')">Pause</button>
          <button v-else type="button" class="btn py-[1px]!" @click="become('running')">Go on</button>
          <button v-if="running" type="button" class="btn py-[1px]!" @click="become('stopped')">Stop</button>
        </template>
      </div>
      <span
        v-if="answer?.cases && head && !head.current"
        class="border-l-2 border-warn bg-warnsoft px-2 py-1"
        data-test="stale"
        >The plant or the question has changed since.</span
      >
      <span class="text-[12px] text-ink2" data-test="asked">{{ when }}</span>
      <label v-if="grid" class="ml-auto flex items-baseline gap-2"
        >Drawn as
        <select v-model="contoured" class="input w-[190px]" name="drawn-as">
          <option :value="false">curves</option>
          <option :value="true">lines of equal value</option>
        </select>
      </label>
      <a v-if="answer" class="link" :class="{ 'ml-auto': !grid }" :href="file" download>CSV</a>
    </div>
    <MessageLine class="mb-3" :text="message" />
    <template v-if="result?.cases.length">
      <div :class="{ 'opacity-60': head && !head.current }">
        <OptimumView v-if="result.optimum" :result="result" :editable="plant.editable" @open="open" />
        <SpreadView v-if="result.spread?.length" :result="result" />
      </div>
      <div
        v-if="diagrams.length"
        class="mb-5 grid grid-cols-[repeat(auto-fill,minmax(420px,1fr))] gap-4"
        :class="{ 'opacity-60': head && !head.current }"
      >
        <div v-for="d in diagrams" :key="d.title" class="h-[340px]"><DiagramChart :diagrams="[d]" /></div>
      </div>
      <ParallelPlot v-if="many && !result.optimum" class="mb-5" :result="result" @chosen="chosen = $event" />
      <p v-if="chosen" role="status" class="mb-2" data-test="chosen">
        {{ shown.length }} of {{ result.cases.length }} cases lie in the ranges.
      </p>
      <p v-if="picked.length" class="sticky -top-4 z-10 bg-paper py-2" role="status">
        <RouterLink class="link" :to="comparison">
          Compare {{ picked.length === 1 ? 'the case' : `${picked.length} cases` }} with the plant as it stands
        </RouterLink>
      </p>
      <table class="w-full max-w-[1100px]" data-test="study-cases">
        <thead>
          <tr class="border-b border-rule text-right align-bottom">
            <th scope="col" class="head w-[60px] text-left!">Case</th>
            <th v-for="(column, k) in columns" :key="k" scope="col" class="head text-right!">
              {{ column.name }}<span class="block font-normal">{{ unitText(unit(column)) }}</span>
            </th>
            <th scope="col" class="head pl-4 text-left!">Remark</th>
            <td v-if="plant.editable"></td>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.number" class="border-b border-rule2 text-right align-baseline">
            <td class="py-[3px] text-left whitespace-nowrap">
              <label class="flex items-baseline gap-2">
                <input
                  v-model="picked"
                  type="checkbox"
                  :value="row.number - 1"
                  :aria-label="`Compare case ${row.number}`"
                  :disabled="picked.length >= COMPARED && !picked.includes(row.number - 1)"
                />
                {{ row.number }}
              </label>
            </td>
            <td v-for="(cell, k) in row.cells" :key="k">{{ cell }}</td>
            <td class="pl-4 text-left text-warn">{{ row.remark }}</td>
            <td v-if="plant.editable" class="w-[130px]">
              <button
                type="button"
                class="link"
                :aria-label="`Open case ${row.number} as a variant`"
                @click="open(row.number - 1)"
              >
                Open as a variant
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="shown.length > MOST" class="pt-2 text-ink2">
        The first {{ MOST }} of {{ shown.length }} cases; all of them are in the file.
      </p>
    </template>
  </section>
</template>
