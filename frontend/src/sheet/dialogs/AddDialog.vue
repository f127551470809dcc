<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, ref, watch } from 'vue'
import type { UnitType } from '../../api/client'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'
import { symbolOf } from '../canvas/symbols'

/** Every unit operation with its symbol, by family; found by its name or by another word for it. */
const emit = defineEmits<{ add: [type: UnitType] }>()
const catalogue = useCatalogue()
const plant = usePlant()
const sheet = useSheet()
const query = ref('')
const FAMILIES: Record<string, string> = {
  boundary: 'Feeds and products',
  flow: 'Mixing and splitting',
  heat: 'Heat exchange',
  pressure: 'Pumps, compressors, valves, pipes',
  separation: 'Separation',
  reaction: 'Reaction',
  solids: 'Solids',
  storage: 'Storage',
  energy: 'Heat and power',
}
watch(
  () => sheet.dialog,
  () => (query.value = ''),
)
const found = computed(() => {
  const words = query.value.toLowerCase().split(/\s+/).filter(Boolean)
  const fits = (t: UnitType) => words.every((w) => [t.title, ...t.also].some((n) => n.toLowerCase().includes(w)))
  const types = (catalogue.data?.unit_types ?? []).filter(fits)
  const keys = [...new Set([...Object.keys(FAMILIES), ...types.map((t) => t.family)])]
  return keys
    .map((key) => ({ title: FAMILIES[key] ?? key, types: types.filter((t) => t.family === key) }))
    .filter((family) => family.types.length)
})
const beside = computed(() => plant.unit(plant.selected)?.tag)
function add(type: UnitType | undefined) {
  if (!type) return
  sheet.dialog = ''
  emit('add', type)
}
</script>

<template>
  <Dialog :open="sheet.dialog === 'add'" class="relative z-50" @close="sheet.dialog = ''">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel
        class="grid max-h-[88vh] w-[860px] grid-rows-[auto_minmax(0,1fr)] border border-rule bg-paper text-ink shadow-xl"
      >
        <div class="flex items-center gap-4 border-b border-rule2 px-6 py-4">
          <DialogTitle class="text-[16px] font-semibold">Add a unit</DialogTitle>
          <input
            v-model="query"
            class="input w-[260px]!"
            name="unit-type"
            placeholder="Name, or another word for it"
            aria-label="Find a unit operation"
            autocomplete="off"
            @keydown.enter.prevent="add(found[0]?.types[0])"
          />
          <span class="text-ink2">{{ beside ? `It is connected to ${beside}.` : '' }}</span>
          <button class="btn ml-auto" @click="sheet.dialog = ''">Close</button>
        </div>
        <div class="overflow-auto px-6 pb-5">
          <section v-for="family in found" :key="family.title">
            <h3 class="head pt-3 pb-1">{{ family.title }}</h3>
            <div class="grid grid-cols-3 gap-x-4">
              <button
                v-for="t in family.types"
                :key="t.type"
                class="flex items-center gap-3 rounded px-2 py-[5px] text-left hover:bg-actsoft focus-visible:bg-actsoft"
                :title="t.theory"
                @click="add(t)"
              >
                <svg
                  class="h-[38px] w-[48px] shrink-0 overflow-visible"
                  :viewBox="`0 0 ${symbolOf(t.symbol).width} ${symbolOf(t.symbol).height}`"
                  aria-hidden="true"
                >
                  <path
                    v-for="d in symbolOf(t.symbol).paths"
                    :key="d"
                    :d="d"
                    fill="none"
                    stroke="var(--ink)"
                    stroke-width="1.5"
                  />
                </svg>
                <span class="min-w-0">
                  <b class="block font-medium">{{ t.title }}</b>
                  <span class="block text-[11.5px] leading-[1.25] text-ink2">{{ t.also.join(', ') }}</span>
                </span>
              </button>
            </div>
          </section>
          <p v-if="!found.length" class="py-4 text-ink2">No unit operation is called “{{ query }}”.</p>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
