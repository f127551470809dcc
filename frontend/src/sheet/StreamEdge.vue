<script setup lang="ts">
import { computed } from 'vue'
import { usePlant } from '../stores/plant'
import type { Label, Point } from './routing'

const props = defineProps<{ id: string; data: { points: Point[]; label: Label } }>()
const plant = usePlant()
const path = computed(() => props.data.points.map((p, k) => `${k ? 'L' : 'M'}${p.x} ${p.y}`).join(''))
const state = computed(() => plant.result?.streams[props.id])
const chosen = computed(() => plant.selected === props.id)
const dash = computed(() => {
  const vf = state.value?.vapour_fraction
  if (vf === undefined || vf === 0) return ''
  return vf === 1 ? '9 4' : '12 3 2 3'
})
const colour = computed(() =>
  chosen.value ? 'var(--act)' : state.value && plant.current ? 'var(--ink)' : 'var(--ink-3)',
)
const arrow = computed(() => {
  const end = props.data.points[props.data.points.length - 1]
  const before = props.data.points[props.data.points.length - 2]
  if (!end || !before) return ''
  const dx = Math.sign(end.x - before.x)
  const dy = Math.sign(end.y - before.y)
  return `M${end.x} ${end.y}l${-8 * dx - 4 * dy} ${-8 * dy - 4 * dx}l${8 * dy} ${8 * dx}z`
})
</script>

<template>
  <g :data-test="'stream-' + id" class="cursor-pointer">
    <path :d="path" fill="none" stroke="transparent" stroke-width="14" />
    <path :d="path" fill="none" :stroke="colour" :stroke-width="chosen ? 2.2 : 1.4" :stroke-dasharray="dash" />
    <path :d="arrow" :fill="colour" />
    <text
      class="tag"
      :x="data.label.x + (data.label.upright ? 6 : 0)"
      :y="data.label.y + (data.label.upright ? 4 : -5)"
      :text-anchor="data.label.upright ? 'start' : 'middle'"
      font-size="11"
      :fill="chosen ? 'var(--act)' : 'var(--ink-2)'"
      stroke="var(--paper)"
      stroke-width="3"
      paint-order="stroke"
      >{{ id }}</text
    >
  </g>
</template>
