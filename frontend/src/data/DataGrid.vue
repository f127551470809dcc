<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Measured } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { read, tableOf } from './cells'
import { columnsOf, isColumn } from './columns'
import { understand } from './understand'
import { usePlant } from '../stores/plant'

/** The points of a data set as a table: typed or pasted from a spreadsheet, units and standard deviations in the head. */
type Unread = { row: number; column: number; text: string }
const props = defineProps<{
  data: Measured
  save: (data: Measured) => Promise<string>
  /** A table with a heading, from a point on. */
  headed: (data: Measured, cells: string[][], first: number) => Promise<{ text: string; unread: Unread[] }>
}>()
const catalogue = useCatalogue()
const plant = usePlant()
const bad = ref(new Map<string, string>())
const refusal = ref('')
const kind = computed(() => catalogue.data?.data_kinds.find((k) => k.key === props.data.kind))

watch(
  () => props.data.name,
  () => {
    bad.value = new Map()
    refusal.value = ''
  },
)
const column = (key: string) => kind.value?.columns.find((c) => isColumn(c.key, key))
function heading(key: string): string {
  const found = column(key)
  const of = found && found.key !== key ? ` ${props.data.components[Number(key.slice(1)) - 1]}` : ''
  return `${key}, ${found?.title ?? ''}${of}`
}
/** Columns that the kind of data knows and the set does without. */
const absent = computed(() =>
  columnsOf(kind.value, props.data.components.length)
    .map((c) => c.key)
    .filter((key) => !props.data.columns.some((c) => c.key === key)),
)
function addColumn(key: string) {
  const unit = catalogue.displayUnit(column(key)?.kind ?? '', plant.unitSet)
  void change({
    columns: [...props.data.columns, { key, unit }],
    rows: (props.data.rows ?? []).map((row) => [...row, null]),
  })
}
function removeColumn(at: number) {
  const rows = (props.data.rows ?? []).map((row) => row.filter((_, k) => k !== at))
  void change({ columns: props.data.columns.filter((_, k) => k !== at), rows })
}
const units = (key: string) => catalogue.data?.kinds[column(key)?.kind ?? '']?.units ?? []
const difference = (unit: string) => (unit.startsWith('deg') ? unit.replace('degC', 'K') : unit)

/** The standard deviation that is assumed where none is typed. */
function usual(key: string, unit: string): string {
  const found = column(key)
  if (found?.shares) return `± ${numberText(100 * found.deviation, 2)} % of the largest`
  const factor = units(key).find((u) => u.name === unit)?.factor ?? 1
  return `± ${numberText((found?.deviation ?? 0) / factor, 2)} ${unitText(difference(unit))}`
}

async function change(part: Partial<Measured>) {
  refusal.value = await props.save({ ...props.data, ...part })
}
async function put(lines: string[][], row: number, at: number) {
  const { name } = props.data
  const columns = props.data.columns.slice(at)
  const places = lines.flatMap((line, i) => line.slice(0, columns.length).map((text, j) => ({ text, i, j })))
  const cells = places.map(({ text, j }) => {
    const { key, unit } = columns[j]!
    return { text, kind: column(key)?.kind ?? 'number', unit: unit ?? '' }
  })
  const found = catalogue.inUnits(await understand(cells), cells)
  if (props.data.name !== name) {
    // Another set is open by now: these cells are none of it.
    refusal.value = `${name} was left before its cells were read; paste them there again.`
    return
  }
  const rows = (props.data.rows ?? []).map((r) => [...r])
  const wrong = new Map(bad.value)
  for (const [k, { text, i, j }] of places.entries()) {
    while (rows.length <= row + i) rows.push(props.data.columns.map(() => null))
    const value = found[k]!
    const key = `${row + i},${at + j}`
    if (typeof value === 'string') wrong.set(key, text)
    else wrong.delete(key)
    rows[row + i]![at + j] = typeof value === 'string' ? null : value
  }
  bad.value = wrong
  void change({
    rows: rows.filter((r, i) => r.some((v) => v !== null) || [...wrong.keys()].some((k) => k.startsWith(`${i},`))),
  })
}
function paste(event: ClipboardEvent, row: number, at: number) {
  const table = tableOf(event)
  if (!table) return
  event.preventDefault()
  if (table.headed && table.cells.length > 1) void pasteHeaded(table.cells, row)
  else void put(table.cells, row, at)
}
async function pasteHeaded(cells: string[][], row: number) {
  const { text, unread } = await props.headed(props.data, cells, row)
  refusal.value = text
  bad.value = new Map([...bad.value, ...unread.map((c): [string, string] => [`${c.row},${c.column}`, c.text])])
}
function setUnit(at: number, unit: string) {
  void change({ columns: props.data.columns.map((c, k) => (k === at ? { ...c, unit } : c)) })
}
function setDeviation(at: number, text: string) {
  const value = read(text)
  if (value === undefined || (value !== null && value <= 0)) {
    refusal.value = `A standard deviation is a positive number, not "${text}".`
    return
  }
  void change({ columns: props.data.columns.map((c, k) => (k === at ? { ...c, deviation: value } : c)) })
}
function toggle(row: number) {
  const aside = { ...(props.data.set_aside ?? {}) } as Record<string, string>
  if (aside[row] !== undefined) delete aside[row]
  else aside[row] = 'looks like an outlier'
  void change({ set_aside: aside })
}
function reason(row: number, text: string) {
  void change({ set_aside: { ...(props.data.set_aside ?? {}), [row]: text } })
}
function weigh(row: number, text: string) {
  const value = read(text)
  if (value === undefined || (value !== null && value <= 0)) {
    refusal.value = `A weight is a positive number, not "${text}"; set a point aside to leave it out.`
    return
  }
  const weights = { ...(props.data.weights ?? {}) } as Record<string, number>
  if (value === null || value === 1) delete weights[row]
  else weights[row] = value
  void change({ weights })
}
/** What is said of points by their position, after one of them is gone. */
function without<T>(said: Record<string, T> | undefined, row: number): Record<string, T> {
  const left = Object.entries(said ?? {}).filter(([k]) => Number(k) !== row)
  return Object.fromEntries(left.map(([k, what]) => [Number(k) > row ? Number(k) - 1 : Number(k), what]))
}
function remove(row: number) {
  void change({
    rows: (props.data.rows ?? []).filter((_, k) => k !== row),
    set_aside: without(props.data.set_aside, row),
    weights: without(props.data.weights, row),
  })
}
const shown = (row: number, at: number) => bad.value.get(`${row},${at}`) ?? String(props.data.rows?.[row]?.[at] ?? '')
const count = computed(() => (props.data.rows ?? []).length)
</script>

<template>
  <div class="min-h-0 overflow-auto" tabindex="0" aria-label="Points of the data set">
    <p v-if="refusal" role="alert" class="mb-1 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
    <p v-if="bad.size" role="alert" class="mb-1 border-l-2 border-warn bg-warnsoft px-2 py-1">
      {{ bad.size }} {{ bad.size === 1 ? 'cell is not a number and counts' : 'cells are not numbers and count' }} as
      blank, as marked.
    </p>
    <table class="border-collapse">
      <thead>
        <tr class="sticky top-0 bg-paper align-bottom">
          <th scope="col" class="head px-1 text-left">Point</th>
          <th scope="col" v-for="(c, k) in data.columns" :key="c.key" class="px-1 pb-1 text-left font-normal">
            <span class="head flex max-w-[120px] items-end">
              <span class="min-w-0 flex-1">{{ heading(c.key) }}</span>
              <button
                v-if="plant.editable && !column(c.key)?.needed"
                class="px-1 text-ink3 hover:text-warn"
                :aria-label="`Remove the column ${c.key}`"
                @click="removeColumn(k)"
              >
                ×
              </button>
            </span>
            <select
              v-if="units(c.key).length > 1"
              class="input py-[1px]!"
              :value="c.unit"
              :aria-label="`Unit of ${c.key}`"
              :disabled="!plant.editable"
              @change="setUnit(k, ($event.target as HTMLSelectElement).value)"
            >
              <option v-for="u in units(c.key)" :key="u.name" :value="u.name">
                {{ unitText(u.name) || 'fraction' }}
              </option>
            </select>
            <input
              v-if="column(c.key)?.deviation"
              class="input mt-[2px] py-[1px]! text-right"
              :aria-label="`Standard deviation of ${c.key}`"
              :value="c.deviation ?? ''"
              :placeholder="usual(c.key, c.unit ?? '')"
              :disabled="!plant.editable"
              @change="setDeviation(k, ($event.target as HTMLInputElement).value)"
            />
          </th>
          <td v-if="plant.editable && absent.length" class="px-1 pb-1">
            <select
              class="input w-[84px]! py-[1px]!"
              aria-label="Add a column"
              value=""
              @change="addColumn(($event.target as HTMLSelectElement).value)"
            >
              <option value="">+ column</option>
              <option v-for="key in absent" :key="key" :value="key">{{ heading(key) }}</option>
            </select>
          </td>
          <th scope="col" class="head px-1 text-left">Weight</th>
          <th scope="col" class="head px-2 text-left">Set aside</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in count + 1" :key="row" :class="data.set_aside?.[row - 1] !== undefined ? 'text-ink3' : ''">
          <th scope="row" class="px-1 text-left font-normal text-ink2">{{ row > count ? '+' : row }}</th>
          <td v-for="(c, k) in data.columns" :key="c.key" class="p-[1px]">
            <input
              class="input py-[1px]! text-right"
              :class="[
                data.columns.length > 5 ? 'w-[84px]!' : 'w-[112px]!',
                bad.has(`${row - 1},${k}`) ? 'border-warn! bg-warnsoft!' : '',
                data.set_aside?.[row - 1] !== undefined ? 'line-through' : '',
              ]"
              :value="shown(row - 1, k)"
              :aria-label="`${c.key}, point ${row}`"
              :aria-invalid="bad.has(`${row - 1},${k}`) || undefined"
              :disabled="!plant.editable"
              @paste="paste($event, row - 1, k)"
              @change="put([[($event.target as HTMLInputElement).value]], row - 1, k)"
            />
          </td>
          <td v-if="plant.editable && absent.length"></td>
          <td v-if="row <= count" class="p-[1px]">
            <input
              class="input w-[56px]! py-[1px]! text-right"
              :value="data.weights?.[row - 1] ?? ''"
              placeholder="1"
              :aria-label="`Weight of point ${row}`"
              :disabled="!plant.editable"
              @change="weigh(row - 1, ($event.target as HTMLInputElement).value)"
            />
          </td>
          <td v-if="row <= count" class="px-2 whitespace-nowrap">
            <input
              type="checkbox"
              :aria-label="`Set point ${row} aside`"
              :checked="data.set_aside?.[row - 1] !== undefined"
              :disabled="!plant.editable"
              @change="toggle(row - 1)"
            />
            <input
              v-if="data.set_aside?.[row - 1] !== undefined"
              class="input ml-1 w-[140px]! py-[1px]!"
              :aria-label="`Why point ${row} is set aside`"
              :value="data.set_aside?.[row - 1]"
              @change="reason(row - 1, ($event.target as HTMLInputElement).value)"
            />
            <button
              v-if="plant.editable"
              class="px-1 text-ink3 hover:text-warn"
              :aria-label="`Remove point ${row}`"
              @click="remove(row - 1)"
            >
              ×
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
