<script setup lang="ts">
import { computed, ref } from 'vue'
import DiagramChart from '../../diagrams/DiagramChart.vue'
import { downloadCsv, tableText, type Cell } from '../../diagrams/download'
import { numberText, unitText } from '../../quantities/format'
import { useCatalogue } from '../../stores/catalogue'
import { conditionText, useCases } from '../../stores/conditions'
import { usePlant } from '../../stores/plant'
import { useProfilesOf } from '../../stores/profiles'
import ReactorConditions from './ReactorConditions.vue'
import { choicesOf, overlaid, sideBySide } from './sideBySide'

/** The reactors of the plant side by side, as they are and under other conditions: what each calculates, and their profiles in one picture. */
const plant = usePlant()
const catalogue = useCatalogue()
const emit = defineEmits<{ go: [place: string, field: string | null] }>()
const left = ref<string[]>([])
const wanted = ref('conversion|')
const all = computed(() =>
  (plant.document?.units ?? []).filter((u) => catalogue.type(u.type)?.family === 'reaction').map((u) => u.tag),
)
const chosen = computed(() => all.value.filter((tag) => !left.value.includes(tag)))
const { known, fresh } = useProfilesOf(() => chosen.value)
const { found, refusal, busy, stop } = useCases(() => chosen.value)
/** A reactor as it is, and behind it under each of the conditions. */
const columns = computed(() =>
  chosen.value.flatMap((tag) => [
    { tag, under: '', values: plant.result?.units[tag]?.values ?? [], profiles: known(tag), problem: '' },
    ...found.value.cases
      .filter((c) => c.unit === tag)
      .map((c) => ({ ...c, tag, under: conditionText(found.value.conditions[c.condition]!) })),
  ]),
)
const named = (c: { tag: string; under: string }) => (c.under ? `${c.tag}, ${c.under}` : c.tag)
const rows = computed(() => sideBySide(columns.value))
const profiles = computed(() => columns.value.flatMap((c) => c.profiles.map((profile) => ({ tag: named(c), profile }))))
const choices = computed(() => choicesOf(profiles.value.map((p) => p.profile)))
const drawn = computed({
  get: () => (choices.value.some((c) => c.id === wanted.value) ? wanted.value : (choices.value[0]?.id ?? '')),
  set: (id) => (wanted.value = id),
})
const diagram = computed(() => overlaid(profiles.value, drawn.value))
const unit = (kind: string) => catalogue.displayUnit(kind, plant.unitSet)
const told = (si: number | null, kind: string) =>
  si === null ? '–' : numberText(catalogue.shown(si, kind, unit(kind)))
const title = (tag: string) => catalogue.type(plant.unit(tag)?.type ?? '')?.title ?? ''

function turn(tag: string) {
  left.value = left.value.includes(tag) ? left.value.filter((t) => t !== tag) : [...left.value, tag]
}
function table(): Cell[][] {
  const head = ['', 'Unit', ...columns.value.map(named)]
  const shown = (si: number | null, kind: string) => (si === null ? null : catalogue.shown(si, kind, unit(kind)))
  return [head, ...rows.value.map((r) => [r.title, unit(r.kind), ...r.cells.map((c) => shown(c, r.kind))])]
}
const copy = () => void navigator.clipboard.writeText(tableText(table(), '\t'))
const csv = () => downloadCsv(table(), 'reactors')
</script>

<template>
  <div class="grid h-full grid-cols-[minmax(0,1fr)_minmax(320px,38%)] gap-4 px-4 py-2">
    <div class="min-h-0 min-w-0 overflow-y-auto" tabindex="0">
      <div class="mb-1 flex flex-wrap items-center gap-x-4 gap-y-1">
        <label v-for="tag in all" :key="tag" class="flex items-center gap-1">
          <input type="checkbox" :checked="chosen.includes(tag)" :name="`beside-${tag}`" @change="turn(tag)" />
          <span class="tag">{{ tag }}</span>
        </label>
        <span class="ml-auto flex gap-2">
          <button class="btn py-[1px]!" @click="copy">Copy</button>
          <button class="btn py-[1px]!" @click="csv">CSV</button>
        </span>
      </div>
      <ReactorConditions />
      <p v-if="refusal" role="alert" class="mb-1 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
      <p v-if="busy" class="mb-1 text-ink2">
        Calculating the conditions. <button class="link" @click="stop">Stop</button>
      </p>
      <div class="overflow-x-auto" tabindex="0" :class="plant.current ? '' : 'opacity-60'">
        <table data-test="reactors">
          <thead>
            <tr class="border-b border-rule text-right align-bottom">
              <th scope="col" class="head pr-4 text-left">Result</th>
              <th scope="col" class="head pr-4 text-left">Unit</th>
              <th v-for="(c, k) in columns" :key="k" scope="col" class="pr-4 font-normal">
                <button class="link tag" @click="emit('go', c.tag, null)">{{ c.tag }}</button>
                <span class="block text-[11px] text-ink2">{{ c.under || title(c.tag) }}</span>
              </th>
            </tr>
          </thead>
          <tbody class="text-right">
            <tr v-for="r in rows" :key="r.id" class="border-b border-rule2">
              <th scope="row" class="py-[2px] pr-4 text-left font-normal">{{ r.title }}</th>
              <td class="pr-4 text-left text-ink2">{{ unitText(unit(r.kind)) }}</td>
              <td v-for="(c, k) in r.cells" :key="k" class="pr-4">{{ told(c, r.kind) }}</td>
            </tr>
          </tbody>
        </table>
        <p v-for="(c, k) in columns.filter((one) => one.problem)" :key="k" class="text-warn">
          {{ named(c) }}: {{ c.problem }}
        </p>
        <p v-if="!rows.length" class="text-ink2">Values appear here as soon as the reactors are calculated.</p>
      </div>
    </div>
    <div class="flex min-h-0 flex-col overflow-auto" tabindex="0" :class="fresh || !diagram ? '' : 'opacity-60'">
      <label v-if="choices.length" class="flex items-center gap-2 text-ink2">
        Along them
        <select v-model="drawn" class="input w-auto! py-[3px]!" name="along-reactors">
          <option v-for="c in choices" :key="c.id" :value="c.id">{{ c.title }}</option>
        </select>
      </label>
      <div v-if="diagram" class="h-[300px] shrink-0"><DiagramChart :diagrams="[diagram]" /></div>
      <p v-else class="pt-2 text-ink2">None of them has a profile: tubes and batches have one.</p>
    </div>
  </div>
</template>
