<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, ref, watch } from 'vue'
import type { Edit } from '../../api/client'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'
import { partsOf } from '../tables'

/** A table of results on the sheet: which streams, which values. */
const plant = usePlant()
const catalogue = useCatalogue()
const sheet = useSheet()
const opened = computed(() => sheet.dialog === 'table')
const old = computed(() => plant.document?.tables?.find((t) => t.name === sheet.subject))
const name = ref('')
const streams = ref<string[]>([])
const rows = ref<string[]>([])
const refusal = ref('')
const material = computed(() =>
  (plant.document?.streams ?? []).filter((s) => plant.kindOf(s) === 'material').map((s) => s.tag),
)
const values = computed(() => Object.keys(catalogue.data?.stream_values ?? {}))
const components = computed(() => (plant.document?.chemistry.components ?? []).map((c) => c.id))
const PER_COMPONENT = ['mole_fraction', 'mass_fraction', 'component_flow']
const whole = (what: string) => components.value.every((c) => rows.value.includes(`${what}[${c}]`))

watch(opened, (now) => {
  if (!now) return
  refusal.value = ''
  name.value = old.value?.name ?? free()
  const ends = new Set(
    (plant.document?.units ?? []).filter((u) => ['feed', 'product'].includes(u.type)).map((u) => u.tag),
  )
  const outer = (plant.document?.streams ?? []).filter((s) => ends.has(s.source.unit) || ends.has(s.target.unit))
  streams.value = old.value
    ? [...old.value.streams]
    : outer
        .map((s) => s.tag)
        .filter((tag) => material.value.includes(tag))
        .slice(0, 8)
  rows.value = old.value ? [...old.value.rows] : ['temperature', 'pressure', 'vapour_fraction', 'mass_flow']
})
function free(): string {
  const taken = new Set((plant.document?.tables ?? []).map((t) => t.name))
  let number = 1
  while (taken.has(`Table ${number}`)) number += 1
  return `Table ${number}`
}
function perComponent(what: string, on: boolean) {
  const others = rows.value.filter((row) => partsOf(row).what !== what)
  rows.value = on ? [...others, ...components.value.map((c) => `${what}[${c}]`)] : others
}
async function keep() {
  const left = Math.min(0, ...(plant.document?.units ?? []).map((u) => u.x ?? 0))
  const bottom = Math.max(0, ...(plant.document?.units ?? []).map((u) => u.y ?? 0))
  const place = old.value ? { x: old.value.x ?? 0, y: old.value.y ?? 0 } : { x: left, y: bottom + 140 }
  const order = [...values.value.filter((v) => rows.value.includes(v)), ...rows.value.filter((r) => r.includes('['))]
  const called = name.value.trim() || free()
  const table = {
    name: called,
    streams: material.value.filter((s) => streams.value.includes(s)),
    rows: order,
    ...place,
  }
  refusal.value = await plant.edit({ kind: 'set_table', name: old.value?.name ?? called, table } as Edit)
  if (!refusal.value) sheet.dialog = ''
}
async function remove() {
  await plant.edit({ kind: 'set_table', name: old.value!.name })
  sheet.dialog = ''
}
</script>

<template>
  <Dialog :open="opened" class="relative z-50" @close="sheet.dialog = ''">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel
        as="form"
        class="max-h-[88vh] w-[640px] overflow-auto border border-rule bg-paper p-6 text-ink shadow-xl"
        @submit.prevent="keep"
      >
        <DialogTitle class="mb-3 text-[16px] font-semibold">Table on the sheet</DialogTitle>
        <label class="mb-3 block"
          ><span class="block text-ink2">Name</span
          ><input v-model="name" class="input w-[260px]!" name="table-name" maxlength="60" required
        /></label>
        <fieldset class="mb-3">
          <legend class="head">Streams, one column each</legend>
          <label v-for="tag in material" :key="tag" class="mr-4 inline-flex items-center gap-1">
            <input v-model="streams" type="checkbox" :value="tag" /> <span class="tag">{{ tag }}</span>
          </label>
        </fieldset>
        <fieldset class="mb-3">
          <legend class="head">Values, one row each</legend>
          <label v-for="key in values" :key="key" class="mr-4 inline-flex items-center gap-1">
            <input v-model="rows" type="checkbox" :value="key" /> {{ key.replace(/_/g, ' ') }}
          </label>
          <label v-for="what in PER_COMPONENT" :key="what" class="mr-4 inline-flex items-center gap-1">
            <input
              type="checkbox"
              :checked="components.length > 0 && whole(what)"
              @change="perComponent(what, ($event.target as HTMLInputElement).checked)"
            />
            {{ what.replace(/_/g, ' ') }} of each component
          </label>
        </fieldset>
        <p v-if="refusal" role="alert" class="mb-3 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
        <div class="flex gap-2">
          <button class="btn btn-main" :disabled="!plant.editable || !streams.length || !rows.length">Keep</button>
          <button type="button" class="btn" @click="sheet.dialog = ''">Cancel</button>
          <button v-if="old" type="button" class="btn ml-auto" :disabled="!plant.editable" @click="remove">
            Remove
          </button>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
