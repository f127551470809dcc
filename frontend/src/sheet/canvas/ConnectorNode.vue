<script setup lang="ts">
import { Handle, Position } from '@vue-flow/core'
import { usePlant } from '../../stores/plant'
import type { Connector } from './areaSheet'
import { symbolOf } from './symbols'

/** Where a stream crosses the border of an area: it leads on to the unit at its other end. */
defineProps<{ connector: Connector }>()
const plant = usePlant()
const symbol = symbolOf('connector')
</script>

<template>
  <button
    class="nodrag relative block"
    :data-test="'connector-' + connector.stream"
    :style="{ width: symbol.width + 'px', height: symbol.height + 'px' }"
    :aria-label="`${connector.stream} ${connector.inward ? 'from' : 'to'} ${connector.other}: go there`"
    @click="plant.selected = connector.other"
  >
    <svg :width="symbol.width" :height="symbol.height" class="absolute inset-0 overflow-visible">
      <path v-for="d in symbol.paths" :key="d" :d="d" fill="var(--paper)" stroke="var(--act)" stroke-width="1.5" />
    </svg>
    <span
      class="tag absolute top-full left-1/2 mt-[6px] text-[12px] whitespace-nowrap text-act"
      :style="{ transform: 'translateX(-50%) scale(var(--lettering))', transformOrigin: 'top center' }"
      >{{ connector.inward ? 'from' : 'to' }} {{ connector.other }}</span
    >
    <Handle
      id="end"
      :type="connector.inward ? 'source' : 'target'"
      :position="connector.inward ? Position.Right : Position.Left"
      class="port"
      :connectable="false"
    />
  </button>
</template>
