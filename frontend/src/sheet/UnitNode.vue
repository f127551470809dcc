<script setup lang="ts">
import { Handle, Position } from '@vue-flow/core'
import { computed } from 'vue'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import { sideOf } from './routing'
import StateMark from './StateMark.vue'
import { symbolOf } from './symbols'

const props = defineProps<{ id: string; data: { type: string } }>()
const plant = usePlant()
const catalogue = useCatalogue()
const type = computed(() => catalogue.type(props.data.type))
const symbol = computed(() => symbolOf(type.value?.symbol))
const mark = computed(() => plant.mark(props.id))
const told = computed(
  () => (plant.result?.findings ?? []).filter((f) => f.place === props.id && f.severity !== 'note').length,
)
const chosen = computed(() => plant.selected === props.id)
const SIDES = { left: Position.Left, right: Position.Right, top: Position.Top, bottom: Position.Bottom }
const WORDS = {
  open: 'values missing',
  ready: 'can be calculated',
  current: 'calculated',
  stale: 'out of date',
  fault: 'fault',
}
</script>

<template>
  <div
    class="relative"
    :data-test="'unit-' + id"
    :aria-label="`${type?.title} ${id}, ${WORDS[mark]}`"
    :style="{ width: symbol.width + 'px', height: symbol.height + 'px' }"
  >
    <div v-if="chosen" class="absolute -inset-[7px] rounded-[3px] border-[1.6px] border-act" />
    <svg :width="symbol.width" :height="symbol.height" class="absolute inset-0 overflow-visible">
      <path
        v-for="(d, k) in symbol.paths"
        :key="k"
        :d="d"
        :fill="k ? 'none' : 'var(--paper)'"
        stroke="var(--ink)"
        stroke-width="1.5"
        stroke-linejoin="round"
      />
    </svg>
    <Handle
      v-for="port in type?.ports ?? []"
      :id="port.key"
      :key="port.key"
      :type="port.direction === 'out' ? 'source' : 'target'"
      :position="SIDES[sideOf(port.place)]"
      :title="port.title"
      class="port"
      :style="{
        left: (port.place[0] ?? 0) * symbol.width + 'px',
        top: (port.place[1] ?? 0) * symbol.height + 'px',
        right: 'auto',
        bottom: 'auto',
        transform: 'translate(-50%, -50%)',
      }"
    />
    <div
      class="absolute flex items-center gap-[6px] rounded-[2px] border border-rule bg-paper px-[5px] leading-[16px] whitespace-nowrap"
      :style="
        symbol.plate === 'beside'
          ? { left: symbol.width + 8 + 'px', top: symbol.height - 30 + 'px' }
          : symbol.plate === 'corner'
            ? { left: symbol.width * 0.72 + 'px', top: symbol.height + 4 + 'px' }
            : { left: symbol.width / 2 + 'px', top: symbol.height + 7 + 'px', transform: 'translateX(-50%)' }
      "
    >
      <span class="tag text-[12px]">{{ id }}</span>
      <StateMark :mark="mark" />
      <span v-if="told" class="text-[10.5px] font-semibold text-warn">{{ told }}</span>
    </div>
  </div>
</template>
