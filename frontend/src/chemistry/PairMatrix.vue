<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api, sentence, type Influence, type PairRow, type Quantity } from '../api/client'
import QuantityField from '../quantities/QuantityField.vue'
import { numberText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import Working from '../app/Working.vue'
import { usePlant } from '../stores/plant'
import ModelEquation from './ModelEquation.vue'
import { useQuestion } from '../stores/question'

const plant = usePlant()
const catalogue = useCatalogue()
const ids = computed(() => plant.fluids)
/** Every pair with what is known of it; asked for here, since their number grows with the square of the components. */
const rows = shallowRef<PairRow[]>([])
const failed = ref('')
let asked = 0
async function load() {
  const mine = ++asked
  if (!plant.variant) return
  const params = { path: { variant_id: plant.variant.id } }
  const call = api.GET('/api/variants/{variant_id}/pairs', { params })
  const reply = await call.catch((error: unknown) => ({ data: undefined, error }))
  if (mine !== asked) return
  if (reply.data) rows.value = reply.data
  failed.value = reply.data ? '' : sentence(reply.error)
}
watch(() => plant.document?.chemistry, load, { immediate: true })
const model = computed(() => catalogue.data?.models.find((m) => m.key === plant.document?.chemistry.model))
const parameters = computed(() => model.value?.parameters ?? [])
const chosen = ref<[string, string] | null>(null)
const row = computed(() => (chosen.value ? pair(...chosen.value) : undefined))
const own = computed(() => row.value && !['assumed zero', 'not used'].includes(row.value.quality))
const estimating = useQuestion()
const busy = estimating.busy
const note = ref('')
const work = useQuestion()
const influences = ref<Influence[]>([])
const doubtful = computed(() => rows.value.some((r) => ['assumed zero', 'estimated'].includes(r.quality)))
/** Has the plant calculated again with every doubtful pair moved. */
async function weigh() {
  if (!plant.variant) return
  const token = work.begin()
  const params = { path: { variant_id: plant.variant.id } }
  const reply = await api.POST('/api/variants/{variant_id}/influence', { params, body: { token } })
  if (!work.ended(token)) return
  influences.value = reply.data?.influences ?? []
  note.value = reply.data ? '' : sentence(reply.error)
}
const told = (value: number, kind: string | null) => catalogue.told(value, kind, plant.unitSet)
const zero = computed(() => rows.value.filter((r) => r.quality === 'assumed zero').length)
const MARKS: Record<string, string> = { 'measured fit': '●', 'typed in': '◆', estimated: '◇', 'assumed zero': '○' }

watch(model, () => (note.value = ''))
watch(
  () => plant.revision,
  () => (influences.value = []),
)
function pair(a: string, b: string): PairRow | undefined {
  return rows.value.find((r) => (r.first === a && r.second === b) || (r.first === b && r.second === a))
}
/** The first two values of a pair, for the cell. */
function brief(a: string, b: string): string {
  const found = pair(a, b)
  const values = parameters.value.filter((p) => found && p.name in found.values).slice(0, 2)
  if (!found || !values.length) return '0'
  return values.map((p) => numberText(found.values[p.name] ?? 0, 4)).join(' / ')
}
/** One value changes, the others stay as they are; emptied, it goes back to its default, and with the last one the pair goes. */
function commit(name: string, quantity: Quantity | null): Promise<string> {
  const { first, second } = row.value!
  const values = { ...row.value!.values }
  if (quantity) values[name] = quantity.value
  else delete values[name]
  const given = Object.keys(values).length ? { values, source: 'typed in' } : {}
  return plant.edit({ kind: 'set_pair', first, second, ...given })
}
/** One edit that gives every missing pair, or all alike, an estimate, marked as one; what cannot be estimated is told. */
async function estimate(alike: boolean) {
  const token = estimating.begin()
  const told = await plant.estimate(alike, token)
  if (estimating.ended(token)) note.value = told
}
function clear() {
  const { first, second } = row.value!
  void plant.edit({ kind: 'set_pair', first, second })
}
</script>

<template>
  <section aria-labelledby="pairs-title">
    <h2 id="pairs-title" class="head mb-2">Interaction parameters, {{ model?.title }}</h2>
    <p v-if="ids.length < 2" class="text-ink2">
      With two components or more, every pair and what is known of it stands here.
    </p>
    <p v-else-if="!parameters.length" class="text-ink2">{{ model?.title }} has no pair parameters of its own.</p>
    <p v-else-if="!rows.length" class="text-ink2">{{ failed || 'Loading the pairs…' }}</p>
    <template v-else>
      <div class="overflow-auto">
        <table class="border-collapse">
          <thead>
            <tr>
              <th scope="col" class="border border-rule px-2 py-1"><span class="sr-only">Component</span></th>
              <th v-for="id in ids.slice(1)" :key="id" scope="col" class="tag border border-rule px-2 py-1 text-left">
                {{ id }}
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(a, i) in ids.slice(0, -1)" :key="a">
              <th scope="row" class="tag border border-rule px-2 py-1 text-left">{{ a }}</th>
              <td
                v-for="(b, j) in ids.slice(1)"
                :key="b"
                class="h-[44px] min-w-[104px] border border-rule p-0"
                :class="j < i ? 'bg-desk' : ''"
              >
                <button
                  v-if="j >= i"
                  class="h-full w-full px-2 py-1 text-left"
                  :aria-label="`Pair ${a} and ${b}`"
                  :class="
                    chosen && chosen.includes(a) && chosen.includes(b)
                      ? 'outline-2 -outline-offset-2 outline-act'
                      : 'hover:bg-actsoft'
                  "
                  @click="chosen = [a, b]"
                >
                  <b class="block font-medium whitespace-nowrap">{{ brief(a, b) }}</b>
                  <span
                    class="text-[11.5px]"
                    :class="pair(a, b)?.quality === 'assumed zero' ? 'text-warn' : 'text-ink2'"
                  >
                    {{ MARKS[pair(a, b)?.quality ?? ''] }} {{ pair(a, b)?.quality }}
                  </span>
                </button>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="mt-2 flex flex-wrap gap-4 text-[12px] text-ink2">
        <span>● measured fit</span><span>◆ typed in</span><span>◇ estimated</span><span>○ assumed zero</span
        ><span>{{ zero }} of {{ rows.length }} assumed zero</span>
        <button v-if="doubtful && !work.busy.value" class="link" @click="weigh">
          How far do the doubtful ones matter?
        </button>
        <button v-if="zero && plant.editable" class="link" :disabled="busy" @click="estimate(false)">
          Estimate them from groups
        </button>
        <button v-if="rows.length > 1 && plant.editable" class="link" :disabled="busy" @click="estimate(true)">
          Estimate all pairs alike
        </button>
      </p>
      <Working v-if="work.busy.value" text="Calculating with each moved" :share="work.share.value" @stop="work.stop" />
      <Working v-if="busy" text="Estimating" :share="estimating.share.value" @stop="estimating.stop" />
      <p v-if="note" role="status" class="mt-1 border-l-2 border-rule px-2 py-1 text-[12px] text-ink2">{{ note }}</p>
      <table v-if="influences.length" class="mt-3 w-full border-collapse" data-test="influences">
        <caption class="head mb-1 text-left">
          The plant calculated again with each of them moved, those that matter most first
        </caption>
        <thead>
          <tr class="head text-left">
            <th scope="col">Pair</th>
            <th scope="col">Moved by</th>
            <th scope="col">Changes most</th>
            <th scope="col" class="text-right">from</th>
            <th scope="col" class="text-right">to</th>
            <th scope="col" class="text-right">change</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="i in influences" :key="i.first + i.second" class="border-t border-rule2">
            <td>{{ i.first }} / {{ i.second }}</td>
            <td class="text-ink2">
              {{
                Object.entries(i.moved)
                  .map(([name, step]) => `${name} ${step > 0 ? '+' : ''}${step}`)
                  .join(', ')
              }}
            </td>
            <template v-if="i.results[0]">
              <td>{{ i.results[0].name }}</td>
              <td class="text-right">{{ told(i.results[0].before, i.results[0].kind) }}</td>
              <td class="text-right">{{ told(i.results[0].after, i.results[0].kind) }}</td>
              <td class="text-right font-medium">{{ (100 * i.share).toPrecision(2) }} %</td>
            </template>
            <td v-else colspan="4" class="text-warn">{{ i.problem }}</td>
          </tr>
        </tbody>
      </table>
      <div v-if="row && chosen" class="mt-4 max-w-[440px] border border-rule px-4 py-3">
        <h3 class="tag mb-1">{{ row.first }} / {{ row.second }}</h3>
        <ModelEquation :model="model!.key" />
        <p v-if="parameters.length > 1" class="mb-2 text-[12px] text-ink2">
          1 is {{ row.first }}, 2 is {{ row.second }}.
        </p>
        <QuantityField
          v-for="p in parameters"
          :key="row.first + row.second + p.name"
          :label="p.unit ? `${p.name}, ${p.unit}` : p.name"
          kind="number"
          :disabled="!plant.editable"
          :commit="(q) => commit(p.name, q)"
          :given="
            row.quality === 'typed in' && p.name in row.values ? { value: row.values[p.name] ?? 0, unit: '' } : null
          "
          :calculated="row.values[p.name] ?? p.default"
          :data-field="p.name"
        />
        <p class="mt-1 text-[12px] text-ink2">
          {{ row.source.startsWith(row.quality) ? '' : `${row.quality}: ` }}{{ row.source }}. Type a number to use your
          own.
        </p>
        <button v-if="own && plant.editable && row.quality !== 'measured fit'" class="btn mt-2" @click="clear">
          Remove these values
        </button>
      </div>
    </template>
  </section>
</template>
