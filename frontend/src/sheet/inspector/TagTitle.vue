<script setup lang="ts">
import { nextTick, ref } from 'vue'
import { usePlant } from '../../stores/plant'
import { useSheetActions } from '../actions'

/** The tag as a heading; R or a click turns it into a field. */
const props = defineProps<{ tag: string }>()
const plant = usePlant()
const actions = useSheetActions()
const draft = ref<string | null>(null)
const refusal = ref('')
const field = ref<HTMLInputElement | null>(null)

async function start() {
  if (!plant.editable) return
  draft.value = props.tag
  await nextTick()
  field.value?.select()
}
async function finish() {
  const next = draft.value?.trim()
  if (draft.value === null) return
  if (!next || next === props.tag) {
    draft.value = null
    return
  }
  refusal.value = await actions.rename(props.tag, next)
  if (refusal.value) return
  draft.value = null
  plant.selected = next
}
function abandon() {
  draft.value = null
  refusal.value = ''
}
</script>

<template>
  <div>
    <input
      v-if="draft !== null"
      ref="field"
      v-model="draft"
      class="input tag w-[150px]! text-[17px]"
      aria-label="Tag"
      maxlength="24"
      @keydown.enter.prevent="finish"
      @keydown.esc.stop="abandon"
      @blur="finish"
    />
    <button v-else class="tag text-[19px]" :title="plant.editable ? 'Rename (R)' : ''" @click="start">{{ tag }}</button>
    <p v-if="refusal" role="alert" class="mt-1 border-l-2 border-warn bg-warnsoft px-2 py-1 text-[12px]">
      {{ refusal }}
    </p>
  </div>
</template>
