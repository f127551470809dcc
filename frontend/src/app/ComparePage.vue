<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, sentence, type Comparison, type Edit, type Project } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import { useQuestion } from '../stores/question'
import Working from './Working.vue'
import MessageLine from './MessageLine.vue'

/** This variant beside one to five others, or cases of its studies: what was given differently, then what came of it. */
const route = useRoute()
const router = useRouter()
const plant = usePlant()
const catalogue = useCatalogue()
const projects = ref<Project[]>([])
const found = shallowRef<Comparison | null>(null)
const message = ref('')
const work = useQuestion()

const others = computed(() =>
  projects.value
    .flatMap((p) => p.variants.map((v) => ({ id: String(v.id), name: `${p.name} / ${v.name}`, archived: v.archived })))
    .filter((v) => v.id !== String(plant.variant?.id) && !v.archived),
)
const MOST = 5
const beside = computed(() => {
  const asked = String(route.query.with ?? others.value[0]?.id ?? '')
  return asked.split(',').filter(Boolean).slice(0, MOST)
})
const mine = computed(() => `${plant.variant?.project} / ${plant.variant?.name}`)
/** The names of the columns; those of cases come with the answer. */
const names = computed(() => found.value?.names ?? [mine.value])
/** What a column may hold: a variant, or the case that it holds. */
const choices = (column: number) => {
  const now = beside.value[column]!
  const of = { id: now, name: names.value[column + 1] ?? '' }
  return now.includes(':') ? [of, ...others.value] : others.value
}
async function load() {
  const answer = await api.GET('/api/projects')
  projects.value = answer.data ?? []
  message.value = answer.data ? '' : sentence(answer.error)
}
void load()
watch(
  () => [plant.variant?.id, plant.revision, beside.value.join()] as const,
  async ([mine, , theirs]) => {
    if (!mine || !theirs) return
    const token = work.begin()
    const params = { path: { variant_id: mine }, query: { beside: beside.value, token } }
    const answer = await api.GET('/api/variants/{variant_id}/compare', { params })
    if (!work.ended(token)) return
    found.value = answer.data ?? null
    message.value = answer.data ? '' : sentence(answer.error)
  },
  { immediate: true },
)
/** Put a variant into a column, or take the column away. */
function choose(column: number, event: Event) {
  const id = (event.target as HTMLSelectElement).value
  const next = [...beside.value]
  if (id) next[column] = id
  else next.splice(column, 1)
  void router.replace({ query: { with: next.join() } })
}
/** Give this variant what another was given. */
function take(edits: Edit[], what: string, name: string) {
  void plant.edit({ kind: 'batch', edits, label: `${what} taken over from ${name}`.slice(0, 120) })
}
const changes = (values: (number | null)[]) =>
  values.slice(1).map((v) => (v === null || values[0] === null ? null : v - values[0]!))
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
    <div class="mb-4 flex flex-wrap items-center gap-3">
      <h1 class="text-[16px] font-semibold">{{ mine }}</h1>
      <span class="text-ink2">beside</span>
      <label v-for="(id, k) in beside" :key="id" class="flex items-center gap-2">
        <span class="sr-only">Other variant</span>
        <select class="input" name="other-variant" :value="id" @change="choose(k, $event)">
          <option v-for="v in choices(k)" :key="v.id" :value="v.id">{{ v.name }}</option>
          <option v-if="beside.length > 1" value="">remove it</option>
        </select>
      </label>
      <label v-if="beside.length < MOST && others.some((o) => !beside.includes(o.id))" class="flex items-center gap-2">
        <span class="sr-only">One more variant</span>
        <select class="input" name="one-more" value="" @change="choose(beside.length, $event)">
          <option value="">one more…</option>
          <option v-for="v in others.filter((o) => !beside.includes(o.id))" :key="v.id" :value="v.id">
            {{ v.name }}
          </option>
        </select>
      </label>
      <Working v-if="work.busy.value" text="Calculating" :share="work.share.value" @stop="work.stop" />
    </div>
    <MessageLine class="mb-3" :text="message" />
    <p v-if="!beside.length" class="text-ink2">
      There is no other variant yet: branch this one on the page of projects, or choose cases of a study.
    </p>
    <template v-else-if="found">
      <h2 class="head mb-1">Given differently</h2>
      <p v-if="!found.givens.length" class="mb-4 text-ink2">Nothing: all were given the same.</p>
      <table v-else class="mb-6 w-full max-w-[1100px]" data-test="givens">
        <thead>
          <tr class="border-b border-rule text-left">
            <th scope="col" class="head w-[110px]">Where</th>
            <th scope="col" class="head w-[240px]">What</th>
            <th scope="col" v-for="name in names" :key="name" class="head">{{ name }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="d in found.givens" :key="d.place + d.title" class="border-b border-rule2 align-baseline">
            <td class="tag py-[3px]">{{ d.place }}</td>
            <td>{{ d.title }}</td>
            <td v-for="(text, k) in d.texts" :key="k" :class="text === null ? 'text-ink3' : ''">
              {{ text === null ? 'not there' : unitText(text) }}
              <button
                v-if="plant.editable && d.take[k]?.length"
                class="link ml-2 text-[12px]"
                :aria-label="`Take over ${d.place} ${d.title} from ${names[k]}`"
                @click="take(d.take[k] as Edit[], `${d.place} ${d.title}`, names[k]!)"
              >
                Take over
              </button>
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
            <th scope="col" class="head w-[110px]">Where</th>
            <th scope="col" class="head w-[240px]">What</th>
            <th scope="col" v-for="name in names" :key="name" class="head pl-3 text-right">{{ name }}</th>
            <th scope="col" v-for="name in names.slice(1)" :key="'change ' + name" class="head pl-3 text-right">
              Change{{ names.length > 2 ? `, ${name}` : '' }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="d in results" :key="d.place + d.title" class="border-b border-rule2">
            <td class="tag py-[3px]">{{ d.place }}</td>
            <td>{{ d.title }}</td>
            <td v-for="(value, k) in d.values" :key="k" class="pl-3 text-right whitespace-nowrap">
              {{ told(value, d.kind) }}
            </td>
            <td
              v-for="(change, k) in changes(d.values)"
              :key="'change' + k"
              class="pl-3 text-right whitespace-nowrap text-act"
            >
              {{ d.equal || change === null ? '' : told(change, d.kind, true) }}
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </main>
</template>
