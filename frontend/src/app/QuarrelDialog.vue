<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { usePlant } from '../stores/plant'

/** Two people changed the same place: both changes side by side, and which one shall stand. */
const plant = usePlant()
</script>

<template>
  <Dialog :open="!!plant.quarrel" class="relative z-50" @close="plant.settle(false)">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel v-if="plant.quarrel" class="w-[620px] border border-rule bg-paper p-6 text-ink shadow-xl">
        <DialogTitle class="mb-1 text-[16px] font-semibold">Conflicting changes</DialogTitle>
        <p class="mb-4 text-ink2">
          {{ plant.quarrel.author }} changed the same value while you were typing. Your change is kept here until you
          decide.
        </p>
        <div class="mb-5 grid grid-cols-2 gap-4">
          <section class="border border-rule p-3">
            <h3 class="head mb-2">Current value, by {{ plant.quarrel.author }}</h3>
            <p data-test="theirs">{{ plant.quarrel.theirs }}</p>
          </section>
          <section class="border border-rule p-3">
            <h3 class="head mb-2">Your change</h3>
            <p data-test="yours">{{ plant.quarrel.yours }}</p>
          </section>
        </div>
        <div class="flex gap-2">
          <button class="btn btn-main" @click="plant.settle(true)">Keep my change</button>
          <button class="btn" @click="plant.settle(false)">Keep theirs</button>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
