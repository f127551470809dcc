<script setup lang="ts">
import { computed } from 'vue'
import type { Choice, FieldInfo, Unit } from '../../api/client'
import { usePlant } from '../../stores/plant'

/** One of a few named things, such as a utility, a component or a reaction set of the plant. */
const props = defineProps<{ field: FieldInfo; unit: Unit; choice?: Choice; assumed?: string | null }>()
const plant = usePlant()
const names = computed(() => {
  const chemistry = plant.document?.chemistry
  if (props.field.kind === 'component') return (chemistry?.components ?? []).map((c) => c.id)
  if (props.field.kind === 'reactions') return (chemistry?.reactions ?? []).map((s) => s.name)
  return props.field.options ?? []
})
/** What is chosen replaces the other of a choice. */
function choose(name: string) {
  const others = name && props.choice?.count === 1 ? props.choice.fields.filter((k) => k !== props.field.key) : []
  const cleared = Object.fromEntries(others.filter((k) => props.unit.spec[k] != null).map((k) => [k, null]))
  void plant.edit({
    kind: 'set_values',
    unit: props.unit.tag,
    values: { ...cleared, [props.field.key]: name || null },
  })
}
</script>

<template>
  <label class="grid grid-cols-[1fr_170px] items-center gap-2 py-1" :data-field="field.key">
    <span :title="field.help">{{ field.title }}</span>
    <select
      class="input py-[3px]!"
      :name="field.key"
      :value="unit.spec[field.key] ?? ''"
      :disabled="!plant.editable"
      @change="choose(($event.target as HTMLSelectElement).value)"
    >
      <option value="">{{ assumed ?? 'choose' }}</option>
      <option v-for="name in names" :key="name">{{ name }}</option>
    </select>
  </label>
</template>
