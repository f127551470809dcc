<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed } from 'vue'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'

/** Which calculated values stand beside the streams and units, for all of a type or for the selected one alone. */
const plant = usePlant()
const catalogue = useCatalogue()
const sheet = useSheet()
const shown = computed(() => plant.document?.shown ?? {})
const rows = computed(() => {
  const streams = Object.keys(catalogue.data?.stream_values ?? {}).map((key) => ({
    key,
    title: key.replace(/_/g, ' '),
  }))
  const types = [...new Set((plant.document?.units ?? []).map((u) => u.type))]
  const list = [{ of: 'stream', title: 'Every stream', values: streams }]
  const one = plant.selected
  if (one && plant.stream(one)) list.push({ of: one, title: `${one} alone`, values: streams })
  for (const type of types) {
    const values = valuesOf((plant.document?.units ?? []).filter((u) => u.type === type).map((u) => u.tag))
    if (values.length) list.push({ of: type, title: `Every ${catalogue.type(type)?.title.toLowerCase()}`, values })
  }
  if (one && plant.unit(one)) list.push({ of: one, title: `${one} alone`, values: valuesOf([one]) })
  return list
})
function valuesOf(tags: string[]) {
  const found = new Map<string, string>()
  for (const tag of tags)
    for (const v of plant.result?.units[tag]?.values ?? []) found.set(v.key, v.title.toLowerCase())
  return [...found].map(([key, title]) => ({ key, title }))
}
function set(of: string, key: string, on: boolean) {
  const keys = (shown.value[of] ?? []).filter((k) => k !== key).concat(on ? [key] : [])
  void plant.edit({ kind: 'set_shown', of, keys: keys.length ? keys : null })
}
</script>

<template>
  <Dialog :open="sheet.dialog === 'shown'" class="relative z-50" @close="sheet.dialog = ''">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel class="max-h-[88vh] w-[680px] overflow-auto border border-rule bg-paper p-6 text-ink shadow-xl">
        <div class="mb-3 flex items-center justify-between">
          <DialogTitle class="text-[16px] font-semibold">Values beside units and streams</DialogTitle>
          <button class="btn" @click="sheet.dialog = ''">Close</button>
        </div>
        <fieldset v-for="row in rows" :key="row.of" class="border-t border-rule2 py-2">
          <legend class="float-left w-[150px] font-medium">{{ row.title }}</legend>
          <label v-for="v in row.values" :key="v.key" class="mr-4 inline-flex items-center gap-1">
            <input
              type="checkbox"
              :name="`${row.of}.${v.key}`"
              :checked="shown[row.of]?.includes(v.key)"
              :disabled="!plant.editable"
              @change="set(row.of, v.key, ($event.target as HTMLInputElement).checked)"
            />
            {{ v.title }}
          </label>
        </fieldset>
      </DialogPanel>
    </div>
  </Dialog>
</template>
