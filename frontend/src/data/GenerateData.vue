<script setup lang="ts">
import { reactive, ref } from 'vue'
import { api, sentence, type Quantity } from '../api/client'
import QuantityField from '../quantities/QuantityField.vue'
import { useCatalogue } from '../stores/catalogue'
import { useFitting } from '../stores/fitting'
import { usePlant } from '../stores/plant'

/** Boiling points that a predictive model gives where nobody has measured; the set stays branded as such. */
const emit = defineEmits<{ done: [] }>()
const plant = usePlant()
const catalogue = useCatalogue()
const fitting = useFitting()
const asked = reactive({
  model: 'unifac-dortmund',
  first: plant.fluids[0] ?? '',
  second: plant.fluids[1] ?? '',
  pressure: { value: 1, unit: 'atm' } as Quantity | null,
  temperature: null as Quantity | null,
  points: 13,
})
const refusal = ref('')
const busy = ref(false)
/** One level at a time: what is given takes the other's place. */
function level(key: 'pressure' | 'temperature') {
  return async (value: Quantity | null) => {
    if (value) asked[key === 'pressure' ? 'temperature' : 'pressure'] = null
    asked[key] = value
    return ''
  }
}
async function make() {
  if (!plant.variant) return
  busy.value = true
  const name = fitting.freeName('Calculated')
  const reply = await api.POST('/api/variants/{variant_id}/generated-data', {
    params: { path: { variant_id: plant.variant.id } },
    body: { generated: { ...asked, name } },
  })
  busy.value = false
  refusal.value = reply.data ? await fitting.save(reply.data.data) : sentence(reply.error)
  if (refusal.value) return
  fitting.chosen = name
  emit('done')
}
</script>

<template>
  <form class="max-w-[420px] border border-rule px-4 py-3" aria-label="Values of a model" @submit.prevent="make">
    <h2 class="head mb-1">Values of a model</h2>
    <p class="mb-2 text-ink2">
      Boiling points over the liquid, for fitting where nothing was measured. The set, and every fit to it, stays marked
      as not measured.
    </p>
    <label v-for="key in ['first', 'second'] as const" :key="key" class="mb-1 grid grid-cols-[1fr_170px] items-center">
      {{ key === 'first' ? 'Component' : 'and' }}
      <select v-model="asked[key]" class="input py-[3px]!">
        <option v-for="id in plant.fluids" :key="id">{{ id }}</option>
      </select>
    </label>
    <label class="mb-1 grid grid-cols-[1fr_170px] items-center">
      Model
      <select v-model="asked.model" class="input py-[3px]!" name="generating-model">
        <option v-for="m in catalogue.data?.models ?? []" :key="m.key" :value="m.key">{{ m.title }}</option>
      </select>
    </label>
    <QuantityField
      label="at the pressure"
      kind="pressure"
      :given="asked.pressure"
      :commit="level('pressure')"
      data-field="generate.pressure"
    />
    <QuantityField
      label="or the temperature"
      kind="temperature"
      :given="asked.temperature"
      :commit="level('temperature')"
      data-field="generate.temperature"
    />
    <label class="mb-2 grid grid-cols-[1fr_170px] items-center">
      Points
      <input v-model.number="asked.points" class="input py-[3px]! text-right" type="number" min="3" max="100" />
    </label>
    <p v-if="refusal" role="alert" class="mb-2 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
    <button class="btn btn-main" :disabled="busy">{{ busy ? 'Calculating…' : 'Make the set' }}</button>
    <button type="button" class="btn ml-2" @click="emit('done')">Cancel</button>
  </form>
</template>
