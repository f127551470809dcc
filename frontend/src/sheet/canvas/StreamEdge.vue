<script setup lang="ts">
import { computed, inject } from 'vue'
import { usePlant } from '../../stores/plant'
import type { StreamKind } from '../../stores/catalogue'
import { useSheet } from '../../stores/sheet'
import { useBeside } from './beside'
import { arrowOf, dashOf, pathOf } from './drawing'
import { letteringOf, VALUE_ROW, type Label } from './labels'
import { MOVING } from './moving'
import type { Point } from './routing'

const props = defineProps<{ id: string; data: { kind: StreamKind; points: Point[]; label: Label } }>()
const plant = usePlant()
const sheet = useSheet()
const beside = useBeside()
const moving = inject(MOVING)
const line = computed(() => moving?.value.get(props.id) ?? props.data)
const path = computed(() => pathOf(line.value.points))
const state = computed(() => plant.result?.streams[props.id])
const empty = computed(() => state.value?.mole_flow === 0)
const texts = computed(() => beside.texts.value[props.id])
const chosen = computed(() => plant.selected === props.id)
const dash = computed(() => dashOf(props.data.kind, state.value?.vapour_fraction, state.value?.mole_flow))
const width = computed(() => (sheet.overlay === 'none' && chosen.value ? 2.2 : beside.widthOf(props.id)))
const colour = computed(() =>
  chosen.value
    ? 'var(--act)'
    : ((state.value && !empty.value) || plant.result?.energies?.[props.id]) && plant.current
      ? 'var(--ink)'
      : 'var(--ink-3)',
)
const at = computed(() => letteringOf(line.value.label))
const arrow = computed(() => arrowOf(line.value.points))
</script>

<template>
  <g :data-test="'stream-' + id" class="cursor-pointer">
    <path :d="path" fill="none" stroke="transparent" stroke-width="14" />
    <path
      :d="path"
      fill="none"
      :stroke="colour"
      :stroke-width="data.kind === 'shaft' ? 4 : width"
      :stroke-dasharray="sheet.overlay === 'none' || data.kind === 'heat' ? dash : ''"
    />
    <!-- A shaft is a double line. -->
    <path v-if="data.kind === 'shaft'" :d="path" fill="none" stroke="var(--paper)" :stroke-width="1.6" />
    <path :d="arrow" :fill="colour" />
    <text
      class="tag"
      :x="at.x"
      :y="at.tag"
      :text-anchor="at.anchor"
      :style="{ fontSize: 'calc(11px * var(--lettering))' }"
      :fill="chosen ? 'var(--act)' : 'var(--ink-2)'"
      stroke="var(--paper)"
      stroke-width="3"
      paint-order="stroke"
      >{{ id }}</text
    >
    <text
      v-for="(text, k) in texts"
      :key="text"
      :x="at.x"
      :y="at.values + VALUE_ROW * k"
      :text-anchor="at.anchor"
      font-size="10"
      :fill="plant.current ? 'var(--ink-2)' : 'var(--ink-3)'"
      stroke="var(--paper)"
      stroke-width="3"
      paint-order="stroke"
      >{{ text }}</text
    >
  </g>
</template>
