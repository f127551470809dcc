<script setup lang="ts">
import { ref } from 'vue'
import type { Edit, Finding } from '../../api/client'
import { usePlant } from '../../stores/plant'

const props = defineProps<{ finding: Finding }>()
const plant = usePlant()
const busy = ref(false)
const WORDS = { note: 'Note', caution: 'Caution', fault: 'Fault' }

async function repair() {
  busy.value = true
  const edits = props.finding.repair as unknown as Edit[]
  await plant.edit(edits.length === 1 ? edits[0]! : { kind: 'batch', edits, label: props.finding.repair_title })
  busy.value = false
}
</script>

<template>
  <div
    class="border-l-3 px-3 py-[6px] text-[12.5px]"
    :class="finding.severity === 'note' ? 'border-ink3 bg-desk' : 'border-warn bg-warnsoft'"
  >
    <b class="font-semibold">{{ WORDS[finding.severity] }}.</b> {{ finding.text }} {{ finding.remedy }}
    <button v-if="finding.repair?.length && plant.editable" class="link" :disabled="busy" @click="repair">
      {{ finding.repair_title }}
    </button>
  </div>
</template>
