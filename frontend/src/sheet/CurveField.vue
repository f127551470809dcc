<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Choice, FieldInfo, Unit } from '../api/client'
import PointsTable from '../quantities/PointsTable.vue'
import { usePlant } from '../stores/plant'

/** The curve of a machine: volume flow, head, efficiency. */
const props = defineProps<{ field: FieldInfo; unit: Unit; choice: Choice }>()
type Row = (number | null)[]
type Curve = { flow_unit: string; head_unit: string; efficiency_unit: string; rows: Row[] }
const plant = usePlant()
const open = ref(false)
const COLUMNS = [
  { title: 'Flow', kind: 'volume_flow' },
  { title: 'Head', kind: 'head' },
  { title: 'Efficiency', kind: 'fraction' },
]
const given = computed(() => (props.unit.spec[props.field.key] as Curve | undefined) ?? null)
/** Units chosen before the first point is there. */
const chosen = ref<string[] | null>(null)
const units = computed(() => {
  if (given.value) return [given.value.flow_unit, given.value.head_unit, given.value.efficiency_unit]
  return chosen.value ?? ['m3/h', props.unit.type === 'pump' ? 'm' : 'kJ/kg', '%']
})
/** The whole curve takes the place of the other of its choice; without a point it is gone. */
async function save(next: string[], rows: Row[]): Promise<string> {
  chosen.value = next
  if (!rows.length && !given.value) return ''
  const [flow_unit, head_unit, efficiency_unit] = next
  const curve = rows.length ? { flow_unit, head_unit, efficiency_unit, rows } : null
  const others = curve ? props.choice.fields.filter((k) => k !== props.field.key && props.unit.spec[k] != null) : []
  const cleared = Object.fromEntries(others.map((k) => [k, null]))
  return plant.edit({ kind: 'set_values', unit: props.unit.tag, values: { ...cleared, [props.field.key]: curve } })
}
</script>

<template>
  <div class="py-1" :data-field="field.key">
    <p class="grid grid-cols-[1fr_auto] gap-2">
      <span :title="field.help">{{ field.title }}</span>
      <span>
        <template v-if="given">
          {{ given.rows.length }} points
          <button v-if="plant.editable" type="button" class="link ml-2" @click="save(units, [])">Give it up</button>
        </template>
        <button v-else type="button" class="link" :aria-expanded="open" @click="open = !open">
          {{ open ? 'not now' : 'type or paste one' }}
        </button>
      </span>
    </p>
    <PointsTable
      v-if="open || given"
      :label="`Curve of ${unit.tag}`"
      :columns="COLUMNS"
      :units="units"
      :rows="given?.rows ?? []"
      :save="save"
    />
  </div>
</template>
