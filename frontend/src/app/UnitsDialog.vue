<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, ref, watch } from 'vue'
import { unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'

/** Sets of display units: for the plant, for oneself alone, and named ones of one's own. */
const props = defineProps<{ open: boolean }>()
const emit = defineEmits<{ close: [] }>()
const plant = usePlant()
const catalogue = useCatalogue()
const name = ref('')
const units = ref<Record<string, string>>({})
const refusal = ref('')
const own = computed(() => plant.document?.unit_sets ?? [])
const kinds = computed(() => Object.entries(catalogue.data?.kinds ?? {}).filter(([, k]) => k.units.length > 1))
const chosen = computed(() => own.value.find((s) => s.name === name.value))

/** Start from a set that there is; a new one gets a free name. */
function start(from: string) {
  const known = own.value.some((s) => s.name === from)
  const free = (n: number): string => (own.value.some((s) => s.name === `Own ${n}`) ? free(n + 1) : `Own ${n}`)
  name.value = known ? from : free(1)
  units.value = Object.fromEntries(kinds.value.map(([key]) => [key, catalogue.displayUnit(key, from)]))
  refusal.value = ''
}
watch(
  () => props.open,
  (open) => open && start(plant.unitSet),
)
async function keep() {
  const set = { name: name.value.trim(), units: units.value }
  refusal.value = await plant.edit({ kind: 'set_units', name: set.name, units: set })
}
async function remove() {
  refusal.value = await plant.edit({ kind: 'set_units', name: name.value })
  if (!refusal.value) start(plant.unitSet)
}
</script>

<template>
  <Dialog :open="open" class="relative z-50" @close="emit('close')">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel class="max-h-[88vh] w-[760px] overflow-auto border border-rule bg-paper p-6 text-ink shadow-xl">
        <div class="mb-3 flex items-center justify-between">
          <DialogTitle class="text-[16px] font-semibold">Units</DialogTitle>
          <button class="btn" @click="emit('close')">Close</button>
        </div>
        <div class="grid grid-cols-2 gap-4 border-b border-rule2 pb-3">
          <label>
            <span class="text-ink2">Of this plant</span>
            <select
              class="input"
              name="plant-units"
              :value="plant.document?.unit_set"
              :disabled="!plant.editable"
              @change="plant.edit({ kind: 'set_unit_set', name: ($event.target as HTMLSelectElement).value })"
            >
              <option v-for="set in plant.unitSets" :key="set">{{ set }}</option>
            </select>
          </label>
          <label>
            <span class="text-ink2">For me, on this computer</span>
            <select v-model="plant.ownUnits" class="input" name="my-units">
              <option value="">as the plant</option>
              <option v-for="set in plant.unitSets" :key="set">{{ set }}</option>
            </select>
          </label>
        </div>
        <template v-if="plant.editable">
          <div class="flex items-end gap-3 py-3">
            <label class="w-[230px]">
              <span class="text-ink2">New set, named</span>
              <input v-model="name" class="input" name="set-name" maxlength="60" />
            </label>
            <label class="w-[190px]">
              <span class="text-ink2">Start from</span>
              <select
                class="input"
                name="set-from"
                value=""
                @change="start(($event.target as HTMLSelectElement).value)"
              >
                <option value="" disabled>a set</option>
                <option v-for="set in plant.unitSets" :key="set">{{ set }}</option>
              </select>
            </label>
            <button class="btn ml-auto" :disabled="!name.trim()" @click="keep">Keep this set</button>
            <button v-if="chosen" class="btn" @click="remove">Remove it</button>
          </div>
          <p v-if="refusal" role="alert" class="mb-2 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
          <div class="grid grid-cols-2 gap-x-6">
            <label
              v-for="[key, kind] in kinds"
              :key="key"
              class="grid grid-cols-[1fr_130px] items-center gap-2 border-b border-rule2 py-[3px]"
            >
              <span>{{ key.replace(/_/g, ' ') }}</span>
              <select v-model="units[key]" class="input py-[2px]!" :name="`unit-${key}`">
                <option v-for="u in kind.units" :key="u.name" :value="u.name">{{ unitText(u.name) || '1' }}</option>
              </select>
            </label>
          </div>
        </template>
      </DialogPanel>
    </div>
  </Dialog>
</template>
