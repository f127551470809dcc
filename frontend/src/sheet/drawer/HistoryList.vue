<script setup lang="ts">
import { ref, watch } from 'vue'
import { api } from '../../api/client'
import { usePlant } from '../../stores/plant'

const plant = usePlant()
const rows = ref<{ number: number; label: string; author: string; created: string }[]>([])

watch(
  () => plant.revision,
  async () => {
    if (!plant.variant) return
    const answer = await api.GET('/api/variants/{variant_id}/history', {
      params: { path: { variant_id: plant.variant.id } },
    })
    rows.value = answer.data ?? []
  },
  { immediate: true },
)
</script>

<template>
  <ol class="h-full overflow-auto px-4 py-2" aria-label="History, newest first">
    <li v-for="r in rows" :key="r.number" class="flex gap-3 border-b border-rule2 py-[3px]">
      <span class="w-[34px] text-right text-ink2">{{ r.number }}</span>
      <span class="flex-1">{{ r.label }}</span>
      <span class="text-ink2">{{ r.author }}, {{ new Date(r.created).toLocaleTimeString('en-GB') }}</span>
      <span class="w-[86px] text-right">
        <button
          v-if="plant.editable && r.number < plant.revision"
          class="link"
          :aria-label="`Back to revision ${r.number}`"
          @click="plant.step(r.number)"
        >
          Back to here
        </button>
      </span>
    </li>
  </ol>
</template>
