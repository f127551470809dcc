<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Choice, Edit, FieldInfo, Quantity, Unit } from '../../api/client'
import { cellsOf } from '../../data/cells'
import { understand } from '../../data/understand'
import QuantityField from '../../quantities/QuantityField.vue'
import { useAims } from '../../stores/aims'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'

/** A table that is given, drawn from its columns. Every cell is an edit of its own; a block from a spreadsheet is one. */
type Cell = Quantity | string
type Row = { id: string; cells: Record<string, Cell> }
const props = defineProps<{ field: FieldInfo; unit: Unit; choice?: Choice }>()
const plant = usePlant()
const aims = useAims()
const catalogue = useCatalogue()
const open = ref(false)
const refusal = ref('')
const columns = computed(() => props.field.columns ?? [])
const rows = computed(() => (props.unit.spec[props.field.key] as { rows?: Row[] } | undefined)?.rows ?? [])
/** The row that comes next keeps its number, and with it the cursor, when its first cell makes it one. */
const next = computed(() => String(1 + Math.max(0, ...rows.value.map((r) => (/^\d+$/.test(r.id) ? Number(r.id) : 0)))))
const drawn = computed<Row[]>(() =>
  plant.editable && rows.value.length < (props.field.most ?? 0)
    ? [...rows.value, { id: next.value, cells: {} }]
    : rows.value,
)
/** Rows whose first cell is on its way. */
const begun = new Set<string>()
watch(rows, (now) => now.forEach((r) => begun.delete(r.id)))
const isQuantity = (kind: string) => !['option', 'component', 'stream', 'reaction'].includes(kind)

/** Beside names, which are long, numbers take less room. */
const named = computed(() => columns.value.some((c) => !isQuantity(c.kind)))

/** What the table takes the place of in its choice. */
function releasing(): Edit[] {
  const others = (props.choice?.fields ?? []).filter((k) => k !== props.field.key && props.unit.spec[k] != null)
  if (!others.length || rows.value.length) return []
  return [{ kind: 'set_values', unit: props.unit.tag, values: Object.fromEntries(others.map((k) => [k, null])) }]
}
async function send(edits: Edit[], label: string): Promise<string> {
  return plant.edit(edits.length === 1 ? edits[0]! : { kind: 'batch', edits, label })
}
function row(id: string, cells: Record<string, Cell> | null): Edit {
  return { kind: 'set_row', unit: props.unit.tag, field: props.field.key, row: id, cells }
}
async function commit(id: string, column: string, cell: Cell | null): Promise<string> {
  if (begun.has(id) || rows.value.some((r) => r.id === id)) {
    const path = `${props.field.key}[${id}].${column}`
    return plant.edit({ kind: 'set_values', unit: props.unit.tag, values: { [path]: cell } })
  }
  if (cell === null) return ''
  begun.add(id)
  const refused = await send([...releasing(), row(id, { [column]: cell })], `${props.unit.tag}: a new row`)
  if (refused) begun.delete(id)
  return refused
}
async function clear() {
  refusal.value = await plant.edit({
    kind: 'set_values',
    unit: props.unit.tag,
    values: { [props.field.key]: null },
  })
  begun.clear()
  open.value = false
}
/** The unit that bare numbers of a column have. */
function unitOf(key: string, kind: string, standard: string): string {
  const typed = rows.value.map((r) => r.cells[key]).find((c): c is Quantity => typeof c === 'object')
  return typed?.unit ?? (standard || catalogue.displayUnit(kind, plant.unitSet))
}
async function paste(event: ClipboardEvent, at: number, first: number) {
  const lines = cellsOf(event)
  if (!lines) return
  event.preventDefault()
  event.stopPropagation()
  const places = lines.flatMap((line, i) =>
    line.slice(0, columns.value.length - first).map((text, j) => ({ text, i, column: columns.value[first + j]! })),
  )
  const typed = places.filter(({ column }) => isQuantity(column.kind))
  const found = await understand(
    typed.map(({ text, column: c }) => ({ text, kind: c.kind, unit: unitOf(c.key, c.kind, c.unit ?? '') })),
  )
  const edits: Edit[] = releasing()
  const values: Record<string, Cell | null> = {}
  const fresh: Record<string, Cell>[] = []
  for (const place of places) {
    const { text, i, column } = place
    const value = isQuantity(column.kind) ? found[typed.indexOf(place)]! : text.trim() || null
    if (value && typeof value === 'object' && 'problem' in value) {
      refusal.value = `${value.problem} Nothing was pasted.`
      return
    }
    const known = rows.value[at + i]
    if (known) values[`${props.field.key}[${known.id}].${column.key}`] = value
    else if (value !== null) (fresh[i] ??= {})[column.key] = value
  }
  for (const [i, cells] of fresh.entries())
    if (cells) edits.push(row(String(Number(next.value) + at + i - rows.value.length), cells))
  if (Object.keys(values).length) edits.push({ kind: 'set_values', unit: props.unit.tag, values })
  refusal.value = edits.length ? await send(edits, `${props.unit.tag}: ${props.field.title.toLowerCase()} pasted`) : ''
}
/** Where names stand beside numbers, the numbers leave them room. */
const width = computed(() => (columns.value.filter((c) => isQuantity(c.kind)).length > 2 ? 'w-[69px]' : 'w-[84px]'))
/** With several names beside one another a row takes two lines. */
const folded = computed(() => columns.value.length > 3 && columns.value.filter((c) => !isQuantity(c.kind)).length > 2)
const line = computed(() => (folded.value ? 'grid grid-cols-[1fr_1fr_18px]' : ''))
const place = (k: number) => (folded.value ? { gridColumn: 1 + (k % 2), gridRow: 1 + Math.floor(k / 2) } : {})
const aside = computed(() => (folded.value ? { gridColumn: 3, gridRow: 1 } : {}))
function names(column: { kind: string; options?: string[] }): string[] {
  if (column.kind === 'component') return (plant.document?.chemistry.components ?? []).map((c) => c.id)
  if (column.kind === 'reaction') {
    const set = (plant.document?.chemistry.reactions ?? []).find((s) => s.name === props.unit.spec.reactions)
    return (set?.reactions ?? []).map((r) => r.name)
  }
  return column.kind === 'stream' ? (plant.document?.streams ?? []).map((s) => s.tag) : (column.options ?? [])
}
</script>

<template>
  <div class="py-1" :data-field="field.key">
    <p class="grid grid-cols-[1fr_auto] gap-2">
      <span :title="field.help">{{ field.title }}</span>
      <span>
        <template v-if="rows.length">
          {{ rows.length }} {{ rows.length === 1 ? 'row' : 'rows' }}
          <button v-if="plant.editable" type="button" class="link ml-2" @click="clear">Remove all rows</button>
        </template>
        <button v-else type="button" class="link" :aria-expanded="open" @click="open = !open">
          {{ open ? 'Close' : 'Type or paste rows' }}
        </button>
      </span>
    </p>
    <p v-if="refusal" role="alert" class="border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
    <table v-if="open || rows.length" class="w-full" :aria-label="`${field.title} of ${unit.tag}`">
      <thead>
        <tr :class="line">
          <th
            v-for="(c, k) in columns"
            :key="c.key"
            scope="col"
            class="head px-[2px] text-left"
            :style="place(k)"
            :title="c.help"
          >
            {{ c.title }}
          </th>
          <th scope="col" :style="aside"><span class="sr-only">Remove</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(r, i) in drawn" :key="r.id" :class="[line, folded ? 'pb-1' : '']">
          <td
            v-for="(c, k) in columns"
            :key="c.key"
            class="p-[1px] align-top"
            :class="named && isQuantity(c.kind) && !folded ? width : ''"
            :style="place(k)"
            :data-field="`${field.key}[${r.id}].${c.key}`"
            @paste.capture="paste($event, i, k)"
          >
            <QuantityField
              v-if="isQuantity(c.kind)"
              :label="`${c.title}, row ${i + 1}`"
              :kind="c.kind"
              :unit="unitOf(c.key, c.kind, c.unit ?? '')"
              :given="(r.cells[c.key] as Quantity | undefined) ?? null"
              :aim="aims.freedBy(unit.tag, `${field.key}[${r.id}].${c.key}`)"
              :disabled="!plant.editable"
              :commit="(q) => commit(r.id, c.key, q)"
              bare
            />
            <select
              v-else
              class="input px-1! py-[2px]!"
              :aria-label="`${c.title}, row ${i + 1}`"
              :value="r.cells[c.key] ?? ''"
              :title="String(r.cells[c.key] ?? c.help ?? '')"
              :disabled="!plant.editable"
              @change="commit(r.id, c.key, ($event.target as HTMLSelectElement).value || null)"
            >
              <option value=""></option>
              <option v-for="name in names(c)" :key="name">{{ name }}</option>
            </select>
          </td>
          <td class="w-[18px]" :style="aside">
            <button
              v-if="plant.editable && i < rows.length"
              type="button"
              class="link"
              :aria-label="`Remove row ${i + 1} of ${field.title.toLowerCase()}`"
              @click="plant.edit(row(r.id, null))"
            >
              ×
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
