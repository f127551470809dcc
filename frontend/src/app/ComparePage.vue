<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, sentence, type Comparison, type Project } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import MessageLine from './MessageLine.vue'

/** This variant beside another: what was given differently, then what came of it. */
const route = useRoute()
const router = useRouter()
const plant = usePlant()
const catalogue = useCatalogue()
const projects = ref<Project[]>([])
const found = shallowRef<Comparison | null>(null)
const message = ref('')
const busy = ref(false)
let turn = 0

const others = computed(() =>
  projects.value
    .flatMap((p) => p.variants.map((v) => ({ id: v.id, name: `${p.name} / ${v.name}`, archived: v.archived })))
    .filter((v) => v.id !== plant.variant?.id && !v.archived),
)
const other = computed(() => Number(route.query.with ?? others.value[0]?.id ?? 0))
const names = computed(() => [
  `${plant.variant?.project} / ${plant.variant?.name}`,
  others.value.find((v) => v.id === other.value)?.name ?? '',
])
async function load() {
  const answer = await api.GET('/api/projects')
  projects.value = answer.data ?? []
  message.value = answer.data ? '' : sentence(answer.error)
}
void load()
watch(
  () => [plant.variant?.id, plant.revision, other.value] as const,
  async ([mine, , theirs]) => {
    if (!mine || !theirs) return
    const ask = ++turn
    busy.value = true
    const params = { path: { variant_id: mine, other_id: theirs } }
    const answer = await api.GET('/api/variants/{variant_id}/compare/{other_id}', { params })
    if (ask !== turn) return
    busy.value = false
    found.value = answer.data ?? null
    message.value = answer.data ? '' : sentence(answer.error)
  },
  { immediate: true },
)
const choose = (event: Event) => router.replace({ query: { with: (event.target as HTMLSelectElement).value } })
const results = computed(() => [...(found.value?.pins ?? []), ...(found.value?.streams ?? [])])
function told(value: number | null | undefined, kind: string | null | undefined, change = false): string {
  if (value === null || value === undefined) return '–'
  const unit = kind ? catalogue.displayUnit(kind, plant.unitSet) : ''
  const of = catalogue.data?.kinds[kind ?? '']?.units.find((u) => u.name === unit)
  if (change) return `${value > 0 ? '+' : ''}${numberText(value / (of?.factor ?? 1), 4)}`
  return `${numberText(kind ? catalogue.shown(value, kind, unit) : value)} ${unitText(unit)}`.trim()
}
</script>

<template>
  <main class="min-h-0 overflow-auto px-6 py-4">
    <div class="mb-4 flex items-center gap-3">
      <h1 class="text-[16px] font-semibold">{{ names[0] }}</h1>
      <span class="text-ink2">beside</span>
      <label class="flex items-center gap-2">
        <span class="sr-only">Other variant</span>
        <select class="input" name="other-variant" :value="other" @change="choose">
          <option v-for="v in others" :key="v.id" :value="v.id">{{ v.name }}</option>
        </select>
      </label>
      <span v-if="busy" role="status" class="text-ink2">Calculating both…</span>
    </div>
    <MessageLine class="mb-3" :text="message" />
    <p v-if="!others.length" class="text-ink2">
      There is no other variant yet: branch this one on the page of projects.
    </p>
    <template v-else-if="found">
      <h2 class="head mb-1">Given differently</h2>
      <p v-if="!found.givens.length" class="mb-4 text-ink2">Nothing: both were given the same.</p>
      <table v-else class="mb-6 w-full max-w-[1100px]" data-test="givens">
        <thead>
          <tr class="border-b border-rule text-left">
            <th class="head w-[110px]">Where</th>
            <th class="head w-[240px]">What</th>
            <th v-for="name in names" :key="name" class="head">{{ name }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="d in found.givens" :key="d.place + d.title" class="border-b border-rule2 align-baseline">
            <td class="tag py-[3px]">{{ d.place }}</td>
            <td>{{ d.title }}</td>
            <td v-for="(text, k) in d.texts" :key="k" :class="text === null ? 'text-ink3' : ''">
              {{ text === null ? 'not there' : unitText(text) }}
            </td>
          </tr>
        </tbody>
      </table>
      <h2 class="head mb-1">Results</h2>
      <p v-if="found.complete.includes(false)" class="mb-2 border-l-2 border-warn bg-warnsoft px-2 py-1">
        {{ names.filter((_, k) => !found!.complete[k]).join(' and ') }}: not calculated to the end.
      </p>
      <p v-if="!results.length" class="text-ink2">No pins, and no stream that differs.</p>
      <table v-else class="w-full max-w-[1100px]" data-test="results">
        <thead>
          <tr class="border-b border-rule text-left">
            <th class="head w-[110px]">Where</th>
            <th class="head w-[240px]">What</th>
            <th v-for="name in names" :key="name" class="head text-right">{{ name }}</th>
            <th class="head text-right">Change</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="d in results" :key="d.place + d.title" class="border-b border-rule2">
            <td class="tag py-[3px]">{{ d.place }}</td>
            <td>{{ d.title }}</td>
            <td v-for="(value, k) in d.values" :key="k" class="text-right">{{ told(value, d.kind) }}</td>
            <td class="text-right text-act">
              {{ d.equal || d.values.includes(null) ? '' : told(d.values[1]! - d.values[0]!, d.kind, true) }}
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </main>
</template>
