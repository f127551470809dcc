<script setup lang="ts">
import type { Profile, ProfileColumn, Unit } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import { inFormula, useAims } from '../stores/aims'
import { usePlant } from '../stores/plant'
import { fullTitle, placed, type Shower } from './panels'

/** Every value at the place that is read, each to be kept as a pin or aimed at. */
const props = defineProps<{ unit: Unit; profile: Profile; row: number; show: Shower }>()
const plant = usePlant()
const aims = useAims()
function formula(column: ProfileColumn): string {
  const place = props.profile.along.values[props.row] ?? 0
  return `${inFormula(props.unit.tag)}.${placed(props.profile, column, place, props.show.siUnit)}`
}
function text(column: ProfileColumn): string {
  const value = column.values[props.row]
  return value == null ? '–' : numberText(props.show.shown(value, column.kind))
}
</script>

<template>
  <section aria-label="Read">
    <h3 class="head px-4 pt-3">
      Read at {{ profile.along.title.toLowerCase() }}
      {{ numberText(show.shown(profile.along.values[row] ?? 0, profile.along.kind)) }}
      {{ profile.steps ? '' : unitText(show.displayUnit(profile.along.kind)) }}
    </h3>
    <div class="px-4 pb-2">
      <div v-for="c in profile.columns" :key="c.key + c.component" class="group flex gap-2 py-[2px]">
        <span class="flex-1">{{ fullTitle(c) }}</span>
        <span :data-test="`read-${c.key}`">{{ text(c) }}</span>
        <span class="min-w-[44px] text-ink2">{{ unitText(show.displayUnit(c.kind)) }}</span>
        <template v-if="plant.editable && c.values[row] != null">
          <button
            class="link text-[12px]"
            :aria-label="`Pin ${fullTitle(c).toLowerCase()} here`"
            @click="plant.edit({ kind: 'set_pin', name: formula(c).slice(0, 60), formula: formula(c) })"
          >
            Pin
          </button>
          <button
            class="link text-[12px]"
            :aria-label="`Aim at ${fullTitle(c).toLowerCase()} here`"
            @click="aims.begin(formula(c))"
          >
            Aim
          </button>
        </template>
      </div>
    </div>
  </section>
</template>
