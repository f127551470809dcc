<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { api, sentence, type Compression, type Quantity, type Edit } from '../../api/client'
import QuantityField from '../../quantities/QuantityField.vue'
import { numberText, unitText } from '../../quantities/format'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'

/** Compression in stages: what is wanted, the stages that follow, and real units laid into the stream. */
const plant = usePlant()
const catalogue = useCatalogue()
const sheet = useSheet()
const opened = computed(() => sheet.dialog === 'compression')
const blank = () => ({
  pressure: null as Quantity | null,
  limit: { value: 140, unit: 'degC' } as Quantity | null,
  cooled_to: { value: 35, unit: 'degC' } as Quantity | null,
  loss: { value: 0.2, unit: 'bar' } as Quantity | null,
  efficiency: { value: 75, unit: '%' } as Quantity | null,
})
const asked = reactive(blank())
const after = ref(true)
const layout = shallowRef<Compression | null>(null)
const refusal = ref('')
const busy = ref(false)
const FIELDS: [keyof ReturnType<typeof blank>, string, string][] = [
  ['pressure', 'Pressure to reach', 'pressure'],
  ['limit', 'Discharge not hotter than', 'temperature'],
  ['cooled_to', 'Coolers reach', 'temperature'],
  ['loss', 'Pressure loss of a cooler', 'pressure_difference'],
  ['efficiency', 'Isentropic efficiency', 'fraction'],
]
watch(opened, (now) => {
  if (!now) return
  Object.assign(asked, blank())
  layout.value = null
  refusal.value = ''
})
watch(after, () => void ask())
function set(key: keyof ReturnType<typeof blank>) {
  return async (quantity: Quantity | null) => {
    asked[key] = quantity
    await ask()
    return ''
  }
}
async function ask() {
  layout.value = null
  refusal.value = ''
  if (Object.values(asked).some((v) => !v)) return
  busy.value = true
  const reply = await api.POST('/api/variants/{variant_id}/compression', {
    params: { path: { variant_id: plant.variant?.id ?? 0 } },
    body: { stream: sheet.subject, aftercooler: after.value, ...(asked as Record<keyof typeof asked, Quantity>) },
  })
  busy.value = false
  layout.value = reply.data ?? null
  refusal.value = reply.data ? '' : sentence(reply.error)
}
async function lay() {
  refusal.value = await plant.edit(layout.value!.edit as Edit)
  if (!refusal.value) sheet.dialog = ''
}
function told(value: number, kind: string): string {
  const unit = catalogue.displayUnit(kind, plant.unitSet)
  return `${numberText(catalogue.shown(value, kind, unit), 4)} ${unitText(unit)}`
}
</script>

<template>
  <Dialog :open="opened" class="relative z-50" @close="sheet.dialog = ''">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel class="w-[620px] border border-rule bg-paper p-6 text-ink shadow-xl">
        <DialogTitle class="mb-1 text-[16px] font-semibold">Compress {{ sheet.subject }} in stages</DialogTitle>
        <p class="mb-3 text-ink2">
          As few stages of equal ratio as the discharge temperature allows, with coolers between them and drums where
          liquid forms.
        </p>
        <div class="grid grid-cols-2 gap-x-6">
          <QuantityField
            v-for="[key, title, kind] in FIELDS"
            :key="key"
            :label="title"
            :kind="kind"
            :given="asked[key]"
            :commit="set(key)"
            :data-field="key"
          />
          <label class="flex items-center gap-2"
            ><input v-model="after" type="checkbox" name="aftercooler" /> Cool after the last stage too</label
          >
        </div>
        <p v-if="busy" role="status" class="mt-3 text-ink2">Counting the stages…</p>
        <p v-if="refusal" role="alert" class="mt-3 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
        <table v-if="layout" class="mt-3 w-full">
          <caption class="pb-1 text-left">
            {{
              layout.stages.length
            }}
            {{
              layout.stages.length === 1 ? 'stage' : 'stages'
            }}
            of ratio
            {{
              numberText(layout.ratio, 4)
            }}
          </caption>
          <thead>
            <tr class="border-b border-rule text-right">
              <th scope="col" class="head text-left">Stage</th>
              <th scope="col" class="head">Outlet pressure</th>
              <th scope="col" class="head">Discharge</th>
              <th scope="col" class="head">Power</th>
              <th scope="col" class="head">Liquid after the cooler</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(s, k) in layout.stages" :key="k" class="border-b border-rule2 text-right">
              <td class="py-[3px] text-left">{{ k + 1 }}</td>
              <td>{{ told(s.pressure, 'pressure') }}</td>
              <td>{{ told(s.temperature, 'temperature') }}</td>
              <td>{{ told(s.power, 'power') }}</td>
              <td>{{ s.liquid > 1e-6 ? `${numberText(100 * s.liquid, 3)} %` : 'none' }}</td>
            </tr>
          </tbody>
        </table>
        <p v-for="note in layout?.notes ?? []" :key="note" class="mt-2 text-ink2">{{ note }}</p>
        <div class="mt-4 flex gap-2">
          <button class="btn btn-main" :disabled="!layout || busy" @click="lay">Lay it out</button>
          <button class="btn" @click="sheet.dialog = ''">Cancel</button>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
