<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { ref } from 'vue'

/** That something is under way for longer than a moment, how far it has come where that is known, and a way to end it. */
defineProps<{ text: string; share: number | null }>()
defineEmits<{ stop: [] }>()
const shown = ref(false)
useTimeoutFn(() => (shown.value = true), 400)
</script>

<template>
  <div v-if="shown" role="status" class="flex items-center gap-3 text-[12px] text-ink2" data-test="working">
    <span>{{ text }}</span>
    <progress
      v-if="share !== null"
      class="h-[6px] w-[120px] accent-[var(--act)]"
      max="1"
      :value="share"
      :aria-label="text"
    />
    <span v-if="share !== null">{{ Math.round(100 * share) }} %</span>
    <button type="button" class="btn py-[1px]!" @click="$emit('stop')">Stop</button>
  </div>
</template>
