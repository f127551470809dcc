<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Choice, FieldInfo, Unit } from '../api/client'
import { read, cellsOf } from '../data/cells'
import { unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'

/** The curve of a machine as a table: volume flow, head, efficiency; typed, or pasted from a spreadsheet. */
const props = defineProps<{ field: FieldInfo; unit: Unit; choice: Choice }>()
type Cells = [number | null, number | null, number | null]
type Curve = { flow_unit: string; head_unit: string; efficiency_unit: string; rows: Cells[] }
const catalogue = useCatalogue()
const plant = usePlant()
const open = ref(false)
const refusal = ref('')
const COLUMNS = [
  { title: 'Flow', kind: 'volume_flow', unit: 'flow_unit' },
  { title: 'Head', kind: 'head', unit: 'head_unit' },
  { title: 'Efficiency', kind: 'fraction', unit: 'efficiency_unit' },
] as const
const given = computed(() => (props.unit.spec[props.field.key] as Curve | undefined) ?? null)
const curve = computed<Curve>(
  () =>
    given.value ?? {
      flow_unit: 'm3/h',
      head_unit: props.unit.type === 'pump' ? 'm' : 'kJ/kg',
      efficiency_unit: '%',
      rows: [],
    },
)
const units = (kind: string) => catalogue.data?.kinds[kind]?.units ?? []

/** A whole curve at a time; it takes the place of the other of its choice. */
async function save(next: Curve | null) {
  const others = next ? props.choice.fields.filter((k) => k !== props.field.key && props.unit.spec[k] != null) : []
  refusal.value = await plant.edit({
    kind: 'set_values',
    unit: props.unit.tag,
    values: { ...Object.fromEntries(others.map((k) => [k, null])), [props.field.key]: next },
  })
}
function put(lines: string[][], row: number, at: number) {
  const rows = curve.value.rows.map((r) => [...r] as Cells)
  for (const [i, line] of lines.entries())
    for (const [j, text] of line.slice(0, 3 - at).entries()) {
      const value = read(text)
      if (value === undefined) {
        refusal.value = `"${text}" is no number.`
        return
      }
      while (rows.length <= row + i) rows.push([null, null, null])
      rows[row + i]![at + j] = value
    }
  const kept = rows.filter((r) => r.some((v) => v !== null))
  void save(kept.length ? { ...curve.value, rows: kept } : null)
}
function paste(event: ClipboardEvent, row: number, at: number) {
  const cells = cellsOf(event)
  if (!cells) return
  event.preventDefault()
  put(cells, row, at)
}
</script>

<template>
  <div class="py-1" :data-field="field.key">
    <p class="grid grid-cols-[1fr_auto] gap-2">
      <span :title="field.help">{{ field.title }}</span>
      <span>
        <button type="button" class="link" :aria-expanded="open || !!given" :disabled="!!given" @click="open = !open">
          {{ given ? `${given.rows.length} points` : open ? 'not now' : 'type or paste one' }}
        </button>
        <button v-if="given && plant.editable" type="button" class="link ml-3" @click="save(null)">Give it up</button>
      </span>
    </p>
    <p v-if="refusal" role="alert" class="border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
    <table v-if="open || given" class="w-full" :aria-label="`Curve of ${unit.tag}`">
      <thead>
        <tr>
          <th v-for="c in COLUMNS" :key="c.kind" class="px-[2px] text-left font-normal">
            <span class="head">{{ c.title }}</span>
            <select
              class="input py-[1px]!"
              :value="curve[c.unit]"
              :aria-label="`Unit of ${c.title.toLowerCase()}`"
              :disabled="!plant.editable || !given"
              @change="save({ ...curve, [c.unit]: ($event.target as HTMLSelectElement).value })"
            >
              <option v-for="u in units(c.kind)" :key="u.name" :value="u.name">{{ unitText(u.name) || '–' }}</option>
            </select>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in curve.rows.length + 1" :key="row">
          <td v-for="(c, k) in COLUMNS" :key="c.kind" class="p-[1px]">
            <input
              class="input py-[1px]! text-right"
              :value="curve.rows[row - 1]?.[k] ?? ''"
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
