<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'

const open = defineModel<boolean>('open', { required: true })
const groups: [string, [string, string][]][] = [
  [
    'Everywhere',
    [
      ['/', 'Find a unit or stream, or do anything by typing'],
      ['?', 'This list'],
      ['F1', 'The guide at the place of this page'],
      ['Ctrl Z', 'Undo'],
      ['Ctrl Y', 'Redo'],
      ['1', 'Chemistry'],
      ['2', 'Sheet'],
    ],
  ],
  [
    'Sheet',
    [
      ['A', 'Add a unit, connected to the selected one'],
      ['C', 'Connect an outlet of the selected unit'],
      ['R', 'Rename what is selected'],
      ['Delete', 'Remove what is selected'],
      ['→ ←', 'Walk along the streams, down or up'],
      ['↑ ↓', 'Next or previous unit'],
      ['Shift + arrows', 'Move the selected unit'],
      ['Enter', 'To the first value of the inspector'],
      ['Esc', 'Back to the sheet, then select nothing'],
      ['F', 'Fit the whole sheet'],
      ['I', 'Insert a unit into the selected stream'],
      ['T', 'Remove the selected unit and reconnect its stream'],
      ['M', 'Mirror what is chosen'],
      ['O', 'Turn what is chosen by a quarter'],
      ['L', 'Arrange what is chosen, or all'],
      ['D', 'Fold or show the drawer below the sheet'],
      ['V', 'Fold or show the inspector'],
      ['P', 'Open the page of the selected unit'],
      ['K', 'Kits'],
      ['Ctrl C, V, D', 'Copy, paste, duplicate units'],
      ['Ctrl A', 'Choose all units; Shift adds one or draws a frame'],
    ],
  ],
  [
    'A value',
    [
      ['Enter', 'Take what was typed; empty clears it'],
      ['Esc', 'Forget what was typed'],
    ],
  ],
]
</script>

<template>
  <Dialog :open="open" class="relative z-50" @close="open = false">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel class="w-[640px] border border-rule bg-paper p-6 text-ink shadow-xl">
        <div class="mb-3 flex items-center justify-between">
          <DialogTitle class="text-[16px] font-semibold">Keys</DialogTitle>
          <button class="btn" @click="open = false">Close</button>
        </div>
        <div class="grid grid-cols-2 gap-x-8 gap-y-4">
          <section v-for="[title, keys] in groups" :key="title">
            <h3 class="head mb-1">{{ title }}</h3>
            <dl>
              <div v-for="[key, text] in keys" :key="key" class="grid grid-cols-[92px_1fr] py-[2px]">
                <dt class="tag">{{ key }}</dt>
                <dd>{{ text }}</dd>
              </div>
            </dl>
          </section>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
