<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'

/** The border of a panel: dragged, or moved with the arrow keys; Enter or a double click folds and opens it. */
const props = defineProps<{ label: string; upright?: boolean; least: number; most: number }>()
/** Room of the panel in pixels. */
const size = defineModel<number>('size', { required: true })
const folded = defineModel<boolean>('folded', { required: true })
const start = ref<{ at: number; size: number } | null>(null)
const bounded = (value: number) => Math.round(Math.min(props.most, Math.max(props.least, value)))

function grip(event: PointerEvent) {
  start.value = { at: props.upright ? event.clientX : event.clientY, size: folded.value ? props.least : size.value }
  event.preventDefault()
}
useEventListener(window, 'pointermove', (event: PointerEvent) => {
  if (!start.value) return
  const wanted = start.value.size + start.value.at - (props.upright ? event.clientX : event.clientY)
  folded.value = wanted < 0.6 * props.least
  if (!folded.value) size.value = bounded(wanted)
})
useEventListener(window, 'pointerup', () => (start.value = null))
function key(event: KeyboardEvent) {
  const step = { ArrowUp: 16, ArrowLeft: 16, ArrowDown: -16, ArrowRight: -16 }[event.key]
  if (step === undefined && event.key !== 'Enter') return
  event.preventDefault()
  event.stopPropagation()
  if (step === undefined) folded.value = !folded.value
  else size.value = bounded(size.value + step)
}
</script>

<template>
  <div
    role="separator"
    tabindex="0"
    class="z-10 hover:bg-act focus-visible:bg-act"
    :class="upright ? '-mr-[5px] w-[5px] cursor-col-resize' : '-mb-[5px] h-[5px] cursor-row-resize'"
    :aria-label="label"
    :aria-orientation="upright ? 'vertical' : 'horizontal'"
    :aria-valuenow="folded ? 0 : size"
    :aria-valuemin="0"
    :aria-valuemax="most"
    @pointerdown="grip"
    @dblclick="folded = !folded"
    @keydown="key"
  />
</template>
