<script setup lang="ts">
import { computed, ref } from 'vue'
import { cellsOf } from '../data/cells'
import { understand } from '../data/understand'
import { useCatalogue } from '../stores/catalogue'
import { useDrafts } from '../stores/drafts'
import { usePlant } from '../stores/plant'
import { unitText } from './format'

/** Points of a curve in two or three columns, each with its unit; typed, or pasted from a spreadsheet. A whole table is saved at a time. */
type Row = [number | null, number | null]
const props = defineProps<{
  label: string
  /** `told`: the unit of a column that is chosen elsewhere. */
  columns: { title: string; kind: string; told?: string }[]
  units: string[]
  rows: Row[]
  /** Tells why it was refused, nothing where it is saved, null where a point is not whole yet. */
  save: (units: string[], rows: Row[]) => Promise<string | null>
}>()
const catalogue = useCatalogue()
const plant = usePlant()
const refusal = ref('')
const offered = (kind: string) => catalogue.data?.kinds[kind]?.units ?? []

const drafts = useDrafts<{ units: string[]; rows: Row[] }>((_, next) => props.save(next.units, next.rows))
const now = computed(() => drafts.get(props.label) ?? { units: props.units, rows: props.rows })

async function put(lines: string[][], row: number, at: number) {
  const places = lines.flatMap((line, i) => line.slice(0, props.columns.length - at).map((text, j) => ({ text, i, j })))
  const cells = places.map(({ text, j }) => ({
    text,
    kind: props.columns[at + j]!.kind,
    unit: now.value.units[at + j] ?? '',
  }))
  const found = catalogue.inUnits(await understand(cells), cells)
  const problem = found.find((v) => typeof v === 'string')
  if (problem) {
    refusal.value = `${problem} Nothing was taken over.`
    return
  }
  const rows = now.value.rows.map((r): Row => [...r])
  for (const [k, { i, j }] of places.entries()) {
    while (rows.length <= row + i) rows.push([null, null])
    rows[row + i]![at + j] = found[k] as number | null
  }
  void keep(
    now.value.units,
    rows.filter((r) => r.some((v) => v !== null)),
  )
}
async function keep(units: string[], rows: Row[]) {
  refusal.value = await drafts.save(props.label, { units, rows })
}
function paste(event: ClipboardEvent, row: number, at: number) {
  const cells = cellsOf(event)
  if (!cells) return
  event.preventDefault()
  void put(cells, row, at)
}
</script>

<template>
  <div>
    <p v-if="refusal" role="alert" class="border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
    <table class="w-full" :aria-label="label">
      <thead>
        <tr>
          <th scope="col" v-for="(c, k) in columns" :key="c.title" class="px-[2px] text-left font-normal">
            <span class="head">{{ c.title }}</span>
            <span v-if="c.told !== undefined" class="ml-1 text-ink2">{{ unitText(c.told) }}</span>
            <select
              v-else
              class="input py-[1px]!"
              :value="now.units[k]"
              :aria-label="`Unit of ${c.title.toLowerCase()}`"
              :disabled="!plant.editable"
              @change="keep(now.units.with(k, ($event.target as HTMLSelectElement).value), now.rows)"
            >
              <option v-for="u in offered(c.kind)" :key="u.name" :value="u.name">{{ unitText(u.name) || '–' }}</option>
            </select>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in now.rows.length + 1" :key="row">
          <td v-for="(c, k) in columns" :key="c.title" class="p-[1px]">
            <input
              class="input py-[1px]! text-right"
              :value="now.rows[row - 1]?.[k] ?? ''"
              :aria-label="`${c.title}, point ${row}`"
              :disabled="!plant.editable"
              @paste="paste($event, row - 1, k)"
              @change="put([[($event.target as HTMLInputElement).value]], row - 1, k)"
            />
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
