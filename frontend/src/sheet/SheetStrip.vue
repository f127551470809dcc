<script setup lang="ts">
import { computed } from 'vue'
import { usePlant } from '../stores/plant'
import StateMark from './StateMark.vue'

/** Below the sheet: what the marks and lines mean, and how well the balances close. */
const plant = usePlant()
const MARKS = [
  ['open', 'values missing'],
  ['ready', 'complete'],
  ['current', 'calculated'],
  ['stale', 'out of date'],
  ['fault', 'fault'],
] as const
const LINES = [
  ['', 'liquid'],
  ['9 4', 'vapour'],
  ['12 3 2 3', 'both'],
] as const
const closure = computed(() => {
  const b = plant.result?.balance
  if (!plant.current || !plant.result?.complete || !b) return 'balances open'
  return `mass closes ${gap(b.mass_gap)}, energy ${gap(b.energy_gap)}`
})
function gap(value: number | undefined): string {
  return Math.abs(value ?? 0) < 1e-15
    ? 'below 1e-15'
    : Math.abs(value ?? 0)
        .toExponential(0)
        .replace('e+', 'e')
}
</script>

<template>
  <div class="flex h-[26px] items-center gap-4 border-t border-rule2 px-3 text-[11px] text-ink2">
    <ul class="flex gap-3" aria-label="Legend">
      <li v-for="[mark, text] in MARKS" :key="mark" class="flex items-center gap-1">
        <StateMark :mark="mark" /> {{ text }}
      </li>
      <li v-for="[dash, text] in LINES" :key="text" class="flex items-center gap-1">
        <svg width="26" height="6" aria-hidden="true">
          <path d="M0 3H26" stroke="var(--ink)" stroke-width="1.4" :stroke-dasharray="dash" />
        </svg>
        {{ text }}
      </li>
    </ul>
    <p v-if="plant.document?.units?.length" class="ml-auto whitespace-nowrap">
      revision {{ plant.revision }}, {{ closure }}
    </p>
  </div>
</template>
