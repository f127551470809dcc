<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { api, sentence, type Edit, type Scaling } from '../../api/client'
import { numberText, unitText } from '../../quantities/format'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'

/** The whole plant to a yearly production: what would change is shown first, and made as one edit. */
const plant = usePlant()
const sheet = useSheet()
const asked = reactive({ stream: '', component: '', amount: '', unit: 't', days: '330' })
const found = shallowRef<Scaling | null>(null)
const refusal = ref('')
const streams = computed(() => Object.keys(plant.result?.streams ?? {}))
const ids = computed(() => (plant.document?.chemistry.components ?? []).map((c) => c.id))

watch(
  () => sheet.dialog === 'scaling',
  (open) => {
    if (!open) return
    asked.stream = sheet.subject || streams.value[streams.value.length - 1] || ''
    found.value = null
    refusal.value = ''
  },
)
watch(asked, () => (found.value = null))
async function look() {
  const answer = await api.POST('/api/variants/{variant_id}/scaling', {
    params: { path: { variant_id: plant.variant?.id ?? 0 } },
    body: {
      stream: asked.stream,
      component: asked.component,
      amount: { value: Number(asked.amount), unit: asked.unit },
      days: Number(asked.days),
    },
  })
  found.value = answer.data ?? null
  refusal.value = answer.data ? '' : sentence(answer.error)
}
async function apply() {
  if (!found.value) return
  const label = `scaled to ${asked.amount} ${asked.unit} a year of ${asked.component || asked.stream}`
  refusal.value = await plant.edit({ kind: 'batch', edits: found.value.edits as Edit[], label })
  if (!refusal.value) sheet.dialog = ''
}
</script>

<template>
  <Dialog :open="sheet.dialog === 'scaling'" class="relative z-50" @close="sheet.dialog = ''">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel class="max-h-[88vh] w-[680px] overflow-auto border border-rule bg-paper p-6 text-ink shadow-xl">
        <div class="mb-3 flex items-center justify-between">
          <DialogTitle class="text-[16px] font-semibold">Scale to a yearly production</DialogTitle>
          <button class="btn" @click="sheet.dialog = ''">Close</button>
        </div>
        <form class="grid grid-cols-[1fr_1fr_110px_80px_110px] items-end gap-3" @submit.prevent="look">
          <label
            ><span class="text-ink2">Stream</span>
            <select v-model="asked.stream" class="input" name="scale-stream">
              <option v-for="tag in streams" :key="tag">{{ tag }}</option>
            </select></label
          >
          <label
            ><span class="text-ink2">Of it</span>
            <select v-model="asked.component" class="input" name="scale-component">
              <option value="">all</option>
              <option v-for="id in ids" :key="id">{{ id }}</option>
            </select></label
          >
          <label
            ><span class="text-ink2">A year</span>
            <input v-model="asked.amount" class="input text-right" inputmode="decimal" name="scale-amount" required
          /></label>
          <label
            ><span class="sr-only">Unit of the amount</span>
            <select v-model="asked.unit" class="input" name="scale-unit">
              <option>t</option>
              <option>kg</option>
              <option>lb</option>
            </select></label
          >
          <label
            ><span class="text-ink2">Operating days</span>
            <input v-model="asked.days" class="input text-right" inputmode="decimal" name="scale-days" required
          /></label>
          <button class="btn col-start-1">Show what changes</button>
        </form>
        <p v-if="refusal" role="alert" class="mt-3 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
        <template v-if="found">
          <p class="mt-4">
            All flows times <b class="font-semibold" data-test="factor">{{ numberText(found.factor, 6) }}</b>; every
            temperature, pressure and composition stays.
          </p>
          <table class="mt-2 w-full">
            <tbody>
              <tr v-for="c in found.changes" :key="c.place + c.title" class="border-b border-rule2">
                <td class="tag w-[90px] py-[2px]">{{ c.place }}</td>
                <td>{{ c.title }}</td>
                <td class="text-right text-ink2">{{ unitText(c.before) }}</td>
                <td class="pl-4 text-right">{{ unitText(c.after) }}</td>
              </tr>
            </tbody>
          </table>
          <p v-for="text in found.marked" :key="text" class="mt-1 border-l-2 border-warn bg-warnsoft px-2">
            {{ unitText(text) }}.
          </p>
          <button class="btn mt-3" @click="apply">Scale the plant</button>
        </template>
      </DialogPanel>
    </div>
  </Dialog>
</template>
