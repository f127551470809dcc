<script setup lang="ts">
import { computed } from 'vue'
import type { PlantComponent } from '../api/client'
import PointsTable from '../quantities/PointsTable.vue'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'

/** Points of a property over temperature of one's own, in the place of the bank's curve. */
const props = defineProps<{ item: PlantComponent; name: string; kind: string }>()
type Row = [number | null, number | null]
type Typed = { temperature_unit: string; unit: string; rows: Row[]; source: string }
const plant = usePlant()
const catalogue = useCatalogue()
const given = computed(() => (props.item.curves?.[props.name] as Typed | undefined) ?? null)
const units = computed(() =>
  given.value
    ? [given.value.temperature_unit, given.value.unit]
    : ['temperature', props.kind].map((kind) => catalogue.displayUnit(kind, plant.unitSet)),
)
const columns = computed(() => [
  { title: 'Temperature', kind: 'temperature' },
  { title: props.name[0]!.toUpperCase() + props.name.slice(1), kind: props.kind },
])
function edit(curve: Typed | null): Promise<string> {
  return plant.edit({ kind: 'set_curve', id: props.item.id, name: props.name, curve })
}
async function save(next: string[], rows: Row[]): Promise<string | null> {
  // A point is kept once it is whole; until then it is on its way.
  if (!rows.some((r) => r.every((v) => v !== null))) return given.value ? edit(null) : null
  return edit({ temperature_unit: next[0]!, unit: next[1]!, rows, source: given.value?.source ?? 'typed in' })
}
</script>

<template>
  <div class="my-1 border-l-2 border-l-ink3 pl-2" :data-field="`curve.${name}`">
    <PointsTable
      :key="`${item.id} ${name}`"
      :label="`Own ${name}`"
      :columns="columns"
      :units="units"
      :rows="given?.rows ?? []"
      :save="save"
    />
    <label v-if="given" class="mt-1 flex items-center gap-2">
      Source
      <input
        class="input py-[1px]!"
        :value="given.source"
        maxlength="200"
        :disabled="!plant.editable"
        @change="edit({ ...given, source: ($event.target as HTMLInputElement).value || 'typed in' })"
      />
    </label>
    <button v-if="given && plant.editable" class="link" @click="edit(null)">Use the bank value</button>
  </div>
</template>
