<script setup lang="ts">
import type { Mark } from '../../stores/plant'

defineProps<{ mark: Mark }>()
</script>

<template>
  <svg width="11" height="11" viewBox="0 0 11 11" aria-hidden="true" class="inline-block shrink-0">
    <path
      v-if="mark === 'open'"
      d="M5.5 .8L10.2 5.5L5.5 10.2L.8 5.5z"
      fill="none"
      stroke="var(--ink)"
      stroke-width="1.3"
    />
    <circle v-else-if="mark === 'ready'" cx="5.5" cy="5.5" r="4" fill="none" stroke="var(--ink)" stroke-width="1.3" />
    <circle v-else-if="mark === 'current'" cx="5.5" cy="5.5" r="4.2" fill="var(--ink)" />
    <g v-else-if="mark === 'stale'">
      <circle cx="5.5" cy="5.5" r="4" fill="none" stroke="var(--ink)" stroke-width="1.3" />
      <path d="M5.5 1.5a4 4 0 0 1 0 8z" fill="var(--ink)" />
    </g>
    <path v-else d="M5.5 1L10.3 9.8H.7z" fill="none" stroke="var(--warn)" stroke-width="1.5" />
  </svg>
</template>
