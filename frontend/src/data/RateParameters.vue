<script setup lang="ts">
import { computed } from 'vue'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { useFitting } from '../stores/fitting'
import { usePlant } from '../stores/plant'
import { rowKey } from '../stores/rateRows'

/** The rate laws that are fitted: which set, and which of its numbers are free. */
const fitting = useFitting()
const plant = usePlant()
const catalogue = useCatalogue()
const asked = fitting.asked
const free = computed(() => asked.rates.filter((r) => r.free))
const shown = (row: (typeof asked.rates)[number]) =>
  fitting.current ? fitting.answer?.shown?.[free.value.indexOf(row)] : undefined
const at = (row: (typeof asked.rates)[number]) => {
  const T = fitting.answer?.holds_at?.[free.value.indexOf(row)]
  return T ? `at ${catalogue.told(T, 'temperature', plant.unitSet)}` : ''
}
</script>

<template>
  <p v-if="!fitting.reactionSets.length" class="mb-2">
    Write the reactions first, with their rate laws, under
    <RouterLink class="link" :to="`/plant/${plant.variant?.id}/chemistry/reactions`">Reactions</RouterLink>; the
    constants may be rough.
  </p>
  <template v-else>
    <label class="mb-2 grid grid-cols-[74px_minmax(0,1fr)] items-center">
      Reactions
      <select
        class="input py-[2px]!"
        :value="fitting.reactionSet?.name"
        @change="asked.reactions = ($event.target as HTMLSelectElement).value"
      >
        <option v-for="s in fitting.reactionSets" :key="s.name">{{ s.name }}</option>
      </select>
    </label>
    <p v-if="!asked.rates.length" class="mb-2">Its reactions have no rate law yet.</p>
    <table v-else class="mb-2 w-full border-collapse">
      <thead>
        <tr class="head text-left">
          <th scope="col" class="w-[34px]">Free</th>
          <th scope="col">Of the rate laws</th>
          <th scope="col" class="text-right">Now</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in asked.rates" :key="rowKey(r)" class="border-t border-rule2 align-top">
          <td><input v-model="r.free" type="checkbox" :aria-label="`Free ${r.label}`" /></td>
          <td>
            {{ r.label }}
            <span v-if="r.free && shown(r)" class="block" data-test="fitted-rate">
              <b class="font-medium">{{ numberText(shown(r)!.value, 5) }}</b>
              <span class="text-ink2">
                <template v-if="shown(r)!.half_width != null"> ± {{ numberText(shown(r)!.half_width!, 2) }}</template>
                {{ unitText(shown(r)!.unit) }} {{ at(r) }}
              </span>
            </span>
          </td>
          <td class="text-right text-ink2">{{ unitText(r.now) }}</td>
        </tr>
      </tbody>
    </table>
    <p class="mb-2 text-[12px] text-ink2">Fitted values with their 95 % intervals.</p>
  </template>
</template>
