<script setup lang="ts">
import type { FieldInfo, Unit } from '../api/client'
import { usePlant } from '../stores/plant'

/** One of a few named things, such as a utility. */
defineProps<{ field: FieldInfo; unit: Unit }>()
const plant = usePlant()
</script>

<template>
  <label class="grid grid-cols-[1fr_170px] items-center gap-2 py-1" :data-field="field.key">
    <span :title="field.help">{{ field.title }}</span>
    <select
      class="input py-[3px]!"
      :name="field.key"
      :value="unit.spec[field.key] ?? ''"
      :disabled="!plant.editable"
      @change="
        plant.edit({
          kind: 'set_values',
          unit: unit.tag,
          values: { [field.key]: ($event.target as HTMLSelectElement).value || null },
        })
      "
    >
      <option value="">choose</option>
      <option v-for="name in field.options ?? []" :key="name">{{ name }}</option>
    </select>
  </label>
</template>
