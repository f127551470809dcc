<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Share } from '../stores/question'

/** That something is under way for longer than a moment, how far it has come where that is known, and a way to end it. */
const props = defineProps<{ text: string; share: Share | null }>()
defineEmits<{ stop: [] }>()
const shown = ref(false)
const part = computed(() => (typeof props.share === 'number' ? props.share : null))
/** The questions of others that are answered before. */
const ahead = computed(() => (typeof props.share === 'object' ? (props.share?.ahead ?? 0) : 0))
useTimeoutFn(() => (shown.value = true), 400)
</script>

<template>
  <div v-if="shown" role="status" class="flex items-center gap-3 text-[12px] text-ink2" data-test="working">
    <span v-if="ahead">Waiting for {{ ahead === 1 ? 'another question' : `${ahead} other questions` }}</span>
    <span v-else>{{ text }}</span>
    <progress
      v-if="part !== null"
      class="h-[6px] w-[120px] accent-[var(--act)]"
      max="1"
      :value="part"
      :aria-label="text"
    />
    <span v-if="part !== null">{{ Math.round(100 * part) }} %</span>
    <button type="button" class="btn py-[1px]!" @click="$emit('stop')">Stop</button>
  </div>
</template>
