<script setup lang="ts">
import { computed } from 'vue'
import type { FieldInfo, Quantity, Unit } from '../../api/client'
import QuantityField from '../../quantities/QuantityField.vue'
import { useAims } from '../../stores/aims'
import { usePlant } from '../../stores/plant'

/** A value of a unit that is typed for every component. */
const props = defineProps<{ unit: Unit; field: FieldInfo }>()
const plant = usePlant()
const aims = useAims()
const ids = computed(() => (plant.document?.chemistry.components ?? []).map((c) => c.id))
const values = computed(
  () => (props.unit.spec[props.field.key] as { values?: Record<string, Quantity> } | undefined)?.values ?? {},
)

/** Each value is an edit of its own: what others type meanwhile, or what is still on its way, stays. */
function commit(id: string, quantity: Quantity | null): Promise<string> {
  const path = `${props.field.key}[${id}]`
  return plant.edit({ kind: 'set_values', unit: props.unit.tag, values: { [path]: quantity } })
}
</script>

<template>
  <section class="px-4 pt-2" :aria-label="`${field.title} of ${unit.tag}`">
    <h3 class="head">{{ field.title }}</h3>
    <p class="mb-1 text-[12px] text-ink2">{{ field.help }}</p>
    <QuantityField
      v-for="id in ids"
      :key="id"
      :label="id"
      :kind="field.kind"
      :disabled="!plant.editable"
      :given="values[id] ?? null"
      :aim="aims.freedBy(unit.tag, `${field.key}[${id}]`)"
      :commit="(q) => commit(id, q)"
      :data-field="`${field.key}.${id}`"
    />
  </section>
</template>
