<script setup lang="ts">
import { computed } from 'vue'
import { usePlant } from '../../stores/plant'
import StreamInspector from './StreamInspector.vue'
import UnitInspector from './UnitInspector.vue'

const plant = usePlant()
const unit = computed(() => plant.unit(plant.selected))
const stream = computed(() => plant.stream(plant.selected))
const open = computed(() => plant.result?.asks.length ?? 0)
</script>

<template>
  <aside class="min-h-0 overflow-auto border-l border-rule bg-paper" aria-label="Inspector">
    <UnitInspector v-if="unit" :key="unit.tag" :unit="unit" />
    <StreamInspector v-else-if="stream" :key="stream.tag" :stream="stream" />
    <div v-else class="px-4 py-3">
      <h2 class="mb-2 text-[17px] font-semibold">{{ plant.document?.title }}</h2>
      <template v-if="plant.document?.units?.length">
        <p class="mb-3 text-ink2">Select a unit or a stream to see and change its values.</p>
        <p v-if="open" class="mb-3">
          {{ open }} {{ open === 1 ? 'value is' : 'values are' }} still missing; the list below the sheet leads to each.
        </p>
      </template>
      <p class="text-ink2">
        <kbd class="tag">A</kbd> adds a unit, <kbd class="tag">C</kbd> connects, <kbd class="tag">/</kbd> finds or does
        anything, <kbd class="tag">?</kbd> lists all keys.
      </p>
    </div>
  </aside>
</template>
