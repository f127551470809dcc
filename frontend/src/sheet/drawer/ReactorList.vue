<script setup lang="ts">
import { computed, ref } from 'vue'
import DiagramChart from '../../diagrams/DiagramChart.vue'
import { download } from '../../diagrams/chart'
import { numberText, unitText } from '../../quantities/format'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useProfilesOf } from '../../stores/profiles'
import { choicesOf, overlaid, sideBySide } from './sideBySide'

/** The reactors of the plant side by side: what each has calculated, and their profiles in one picture. */
const plant = usePlant()
const catalogue = useCatalogue()
const emit = defineEmits<{ go: [place: string, field: string | null] }>()
const left = ref<string[]>([])
const wanted = ref('conversion|')
const all = computed(() =>
  (plant.document?.units ?? []).filter((u) => catalogue.type(u.type)?.family === 'reaction').map((u) => u.tag),
)
const chosen = computed(() => all.value.filter((tag) => !left.value.includes(tag)))
const rows = computed(() => sideBySide(chosen.value.map((tag) => ({ values: plant.result?.units[tag]?.values ?? [] }))))
const { known, fresh } = useProfilesOf(() => chosen.value)
const profiles = computed(() => chosen.value.flatMap((tag) => known(tag).map((profile) => ({ tag, profile }))))
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
function lines(between: string) {
  const quoted = (text: string) => (between === ',' ? `"${text.replace(/"/g, '""')}"` : text)
  const cell = (si: number | null, kind: string) => (si === null ? '' : String(catalogue.shown(si, kind, unit(kind))))
  const head = ['', 'Unit', ...chosen.value].map(quoted)
  const body = rows.value.map((r) => [quoted(r.title), quoted(unit(r.kind)), ...r.cells.map((c) => cell(c, r.kind))])
  return [head, ...body].map((row) => row.join(between)).join('\n') + '\n'
}
const copy = () => void navigator.clipboard.writeText(lines('\t'))
const csv = () => download('\ufeff' + lines(','), 'text/csv;charset=utf-8', 'reactors.csv')
</script>

<template>
  <div class="grid h-full grid-cols-[minmax(0,1fr)_minmax(320px,38%)] gap-4 px-4 py-2">
    <div class="flex min-h-0 min-w-0 flex-col">
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
      <div class="min-h-0 overflow-auto" tabindex="0" :class="plant.current ? '' : 'opacity-60'">
        <table data-test="reactors">
          <thead class="sticky top-0 bg-paper">
            <tr class="border-b border-rule text-right align-bottom">
              <th scope="col" class="head pr-4 text-left">Result</th>
              <th scope="col" class="head pr-4 text-left">Unit</th>
              <th v-for="tag in chosen" :key="tag" scope="col" class="pr-4 font-normal">
                <button class="link tag" @click="emit('go', tag, null)">{{ tag }}</button>
                <span class="block text-[11px] text-ink2">{{ title(tag) }}</span>
              </th>
            </tr>
          </thead>
          <tbody class="text-right">
            <tr v-for="r in rows" :key="r.id" class="border-b border-rule2">
              <th scope="row" class="py-[2px] pr-4 text-left font-normal">{{ r.title }}</th>
              <td class="pr-4 text-left text-ink2">{{ unitText(unit(r.kind)) }}</td>
              <td v-for="(c, k) in r.cells" :key="chosen[k]" class="pr-4">{{ told(c, r.kind) }}</td>
            </tr>
          </tbody>
        </table>
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
