<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, ref, watch } from 'vue'
import type { Edit } from '../../api/client'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'
import { boxOf } from '../canvas/drawing'

/** A note on the sheet, or an area: a named frame around units, which can be numbered anew together. */
const plant = usePlant()
const sheet = useSheet()
const name = ref('')
const text = ref('')
const first = ref<number | null>(null)
const refusal = ref('')
const area = computed(() => sheet.dialog === 'area')
const opened = computed(() => area.value || sheet.dialog === 'note')
const before = computed(() => sheet.subject)
const inside = computed(() => {
  const frame = plant.document?.areas?.find((a) => a.name === before.value)
  if (!frame) return sheet.chosen
  return (plant.document?.units ?? [])
    .filter(
      (u) =>
        (u.x ?? 0) >= frame.x &&
        (u.y ?? 0) >= frame.y &&
        (u.x ?? 0) <= frame.x + frame.width &&
        (u.y ?? 0) <= frame.y + frame.height,
    )
    .map((u) => u.tag)
})

watch(opened, (now) => {
  if (!now) return
  refusal.value = ''
  first.value = null
  name.value = before.value
  text.value = plant.document?.notes?.find((n) => n.name === before.value)?.text ?? ''
})
function free(kind: string): string {
  const taken = new Set([...(plant.document?.notes ?? []), ...(plant.document?.areas ?? [])].map((x) => x.name))
  let number = 1
  while (taken.has(`${kind} ${number}`)) number += 1
  return `${kind} ${number}`
}
/** Around everything that is chosen, tag plates included. */
function frame() {
  const boxes = sheet.chosen.map((tag) => {
    const u = plant.unit(tag)!
    const s = boxOf(plant.typeOf(u), u)
    return { left: u.x ?? 0, top: u.y ?? 0, right: (u.x ?? 0) + s.width, bottom: (u.y ?? 0) + s.height + 34 }
  })
  const [x, y] = [Math.min(...boxes.map((b) => b.left)) - 40, Math.min(...boxes.map((b) => b.top)) - 40]
  return {
    x,
    y,
    width: Math.max(...boxes.map((b) => b.right)) + 40 - x,
    height: Math.max(...boxes.map((b) => b.bottom)) + 30 - y,
  }
}
async function keep() {
  const called = name.value.trim() || free(area.value ? 'Area' : 'Note')
  const edits: Edit[] = []
  if (area.value) {
    const old = plant.document?.areas?.find((a) => a.name === before.value)
    edits.push({ kind: 'set_area', name: before.value || called, area: { ...(old ?? frame()), name: called } })
    if (first.value) edits.push({ kind: 'renumber', tags: inside.value, first: first.value })
  } else {
    const old = plant.document?.notes?.find((n) => n.name === before.value)
    const bottom = Math.max(0, ...(plant.document?.units ?? []).map((u) => u.y ?? 0))
    const place = old ?? { x: Math.min(...(plant.document?.units ?? []).map((u) => u.x ?? 0)), y: bottom + 140 }
    edits.push({ kind: 'set_note', name: before.value || called, note: { ...place, name: called, text: text.value } })
  }
  refusal.value = await plant.edit(edits.length > 1 ? { kind: 'batch', edits } : edits[0]!)
  if (!refusal.value) sheet.dialog = ''
}
async function remove() {
  await plant.edit({ kind: area.value ? 'set_area' : 'set_note', name: before.value })
  sheet.dialog = ''
}
</script>

<template>
  <Dialog :open="opened" class="relative z-50" @close="sheet.dialog = ''">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel
        as="form"
        class="w-[460px] border border-rule bg-paper p-6 text-ink shadow-xl"
        @submit.prevent="keep"
      >
        <DialogTitle class="mb-3 text-[16px] font-semibold">{{ area ? 'Area' : 'Note' }}</DialogTitle>
        <label class="mb-3 block"
          ><span class="block text-ink2">Name</span
          ><input
            v-model="name"
            class="input"
            name="paper-name"
            maxlength="60"
            :placeholder="free(area ? 'Area' : 'Note')"
        /></label>
        <label v-if="!area" class="mb-3 block"
          ><span class="block text-ink2">Text</span
          ><textarea v-model="text" class="input h-[110px]" name="paper-text" maxlength="2000" required />
        </label>
        <label v-else class="mb-3 block"
          ><span class="block text-ink2">Number its {{ inside.length }} units from (blank: tags stay)</span
          ><input v-model.number="first" class="input w-[120px]!" type="number" name="paper-first" min="1" max="99999"
        /></label>
        <p v-if="refusal" role="alert" class="mb-3 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
        <div class="flex gap-2">
          <button class="btn btn-main">Keep</button>
          <button type="button" class="btn" @click="sheet.dialog = ''">Cancel</button>
          <button v-if="before" type="button" class="btn ml-auto" @click="remove">Remove</button>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
