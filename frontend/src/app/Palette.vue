<script setup lang="ts">
import {
  Combobox,
  ComboboxInput,
  ComboboxOption,
  ComboboxOptions,
  Dialog,
  DialogPanel,
  DialogTitle,
} from '@headlessui/vue'
import { computed, nextTick, ref, watch } from 'vue'
import { allCommands, type Command } from './commands'

const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{ start: string }>()
const query = ref('')
/** Whether somebody went down the list: then Enter takes what is marked, else the first. */
const moved = ref(false)

watch(open, (now) => {
  if (now) query.value = props.start
})
watch([open, query], () => (moved.value = false))
/** Every word must occur, in the name or in another by which it is looked for; what starts as typed comes first, other names last. */
const typed = computed(() => query.value.trim().toLowerCase())
const words = computed(() => typed.value.split(/\s+/).filter(Boolean))
const name = (c: Command) => `${c.group} ${c.title}`.toLowerCase()
const fits = (text: string) => words.value.every((w) => text.includes(w))
/** The other name that was meant, where the command's own does not fit. */
function meant(c: Command): string | undefined {
  return fits(name(c)) ? undefined : c.also?.find((other) => fits(`${c.group} ${other}`.toLowerCase()))
}
const found = computed(() => {
  const starts = (text: string) => text.toLowerCase().startsWith(typed.value)
  const rank = (c: Command) =>
    starts(name(c)) || starts(c.title) ? 0 : fits(name(c)) ? 1 : 2 + (c.also?.indexOf(meant(c) ?? '') ?? 0)
  return allCommands()
    .filter((c) => fits(name(c)) || meant(c))
    .sort((a, b) => rank(a) - rank(b))
    .slice(0, 60)
})
async function choose(command: Command | null) {
  if (!command) return
  open.value = false
  await nextTick()
  // The dialog gives the focus back to whatever had it; keys belong to the sheet now.
  await new Promise((done) => window.requestAnimationFrame(done))
  if (window.document.activeElement instanceof HTMLElement) window.document.activeElement.blur()
  command.run()
}
</script>

<template>
  <Dialog :open="open" class="relative z-50" @close="open = false">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 flex justify-center pt-[12vh]">
      <DialogPanel class="h-fit w-[520px] border border-rule bg-paper text-ink shadow-xl">
        <DialogTitle class="sr-only">Find or do</DialogTitle>
        <Combobox v-slot="{ activeOption }" :model-value="null" nullable @update:model-value="choose">
          <ComboboxInput
            class="w-full border-b border-rule bg-transparent px-4 py-3 text-[14px] outline-none"
            placeholder="Find a unit or stream, or type what to do"
            aria-label="Find or do"
            @keydown.esc.capture="open = false"
            @keydown.down.up="moved = true"
            @keydown.enter.capture.prevent.stop="choose((moved && activeOption) || found[0] || null)"
            autocomplete="off"
            :display-value="() => query"
            @change="query = $event.target.value"
          />
          <ComboboxOptions static class="max-h-[46vh] overflow-auto py-1">
            <ComboboxOption
              v-for="command in found"
              :key="command.id"
              v-slot="{ active }"
              :value="command"
              as="template"
            >
              <li class="flex cursor-pointer items-baseline gap-3 px-4 py-[5px]" :class="active ? 'bg-actsoft' : ''">
                <span class="w-[92px] shrink-0 text-[12px] text-ink2">{{ command.group }}</span>
                <span class="flex-1">
                  {{ command.title }}<span v-if="meant(command)" class="text-ink2"> ({{ meant(command) }})</span>
                </span>
                <kbd v-if="command.keys" class="tag text-[11.5px] text-ink2">{{ command.keys }}</kbd>
              </li>
            </ComboboxOption>
            <li v-if="!found.length" class="px-4 py-3 text-ink2">Nothing fits “{{ query }}”.</li>
          </ComboboxOptions>
        </Combobox>
      </DialogPanel>
    </div>
  </Dialog>
</template>
