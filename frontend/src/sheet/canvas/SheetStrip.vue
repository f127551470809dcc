<script setup lang="ts">
import { computed } from 'vue'
import { usePlant } from '../../stores/plant'
import type { StreamKind } from '../../stores/catalogue'
import { dashOf } from './drawing'
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
const LINES = computed(() => {
  const kinds = new Set((plant.document?.streams ?? []).map((s) => plant.kindOf(s)))
  const still = Object.values(plant.result?.streams ?? {}).some((s) => s.mole_flow === 0)
  return [
    { kind: 'material', fraction: 0, text: 'liquid' },
    { kind: 'material', fraction: 1, text: 'vapour' },
    { kind: 'material', fraction: 0.5, text: 'both' },
    ...(still ? [{ kind: 'material', fraction: 0, flow: 0, text: 'no flow' }] : []),
    { kind: 'heat', fraction: 0, text: 'heat' },
    { kind: 'shaft', fraction: 0, text: 'shaft' },
  ].filter((l) => l.kind === 'material' || kinds.has(l.kind as StreamKind)) as Line[]
})
type Line = { kind: StreamKind; fraction: number; flow?: number; text: string }
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
    <ul class="flex gap-3 whitespace-nowrap" aria-label="Legend">
      <li v-for="[mark, text] in MARKS" :key="mark" class="flex items-center gap-1">
        <StateMark :mark="mark" /> {{ text }}
      </li>
      <li v-for="l in LINES" :key="l.text" class="flex items-center gap-1">
        <svg width="26" height="6" aria-hidden="true">
          <path
            d="M0 3H26"
            stroke="var(--ink)"
            :stroke-width="l.kind === 'shaft' ? 4 : 1.4"
            :stroke-dasharray="dashOf(l.kind, l.fraction, l.flow)"
          />
          <path v-if="l.kind === 'shaft'" d="M0 3H26" stroke="var(--paper)" stroke-width="1.6" />
        </svg>
        {{ l.text }}
      </li>
    </ul>
    <p v-if="plant.document?.units?.length" class="ml-auto whitespace-nowrap" :title="`revision ${plant.revision}`">
      {{ closure }}
    </p>
  </div>
</template>
