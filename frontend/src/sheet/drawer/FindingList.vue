<script setup lang="ts">
import type { Ask, Finding } from '../../api/client'
import { usePlant } from '../../stores/plant'
import FindingCard from '../inspector/FindingCard.vue'

const plant = usePlant()
const emit = defineEmits<{ go: [place: string, field: string | null] }>()

function goAsk(ask: Ask) {
  emit('go', ask.place, ask.fields[0] ?? null)
}
function goFinding(finding: Finding) {
  emit('go', finding.place, finding.field ?? null)
}
</script>

<template>
  <div class="h-full overflow-auto px-4 py-2">
    <p v-if="!plant.result?.asks.length && !plant.result?.findings.length" class="text-ink2">
      {{
        plant.document?.units?.length
          ? 'Nothing is missing and there is nothing to tell.'
          : 'The sheet is empty. What is missing will be listed here.'
      }}
    </p>
    <ul>
      <li
        v-for="(ask, k) in plant.result?.asks ?? []"
        :key="'a' + k"
        class="flex items-baseline gap-3 border-b border-rule2 py-[4px]"
      >
        <button class="link tag w-[76px] shrink-0 text-left" @click="goAsk(ask)">{{ ask.place }}</button>
        <span>{{ ask.text }}</span>
      </li>
      <li
        v-for="(finding, k) in plant.result?.findings ?? []"
        :key="'f' + k"
        class="flex items-baseline gap-3 border-b border-rule2 py-[4px]"
      >
        <button class="link tag w-[76px] shrink-0 text-left" @click="goFinding(finding)">{{ finding.place }}</button>
        <FindingCard class="flex-1" :finding="finding" />
      </li>
    </ul>
  </div>
</template>
