<script setup lang="ts">
import type { Diagram } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'

/** Pure components and azeotropes at a pressure, in order of temperature. */
defineProps<{ diagram: Diagram }>()
const catalogue = useCatalogue()
const plant = usePlant()
const unit = () => catalogue.displayUnit('temperature', plant.unitSet)
</script>

<template>
  <div>
    <table class="w-full border-collapse">
      <caption class="mb-2 text-left font-medium" data-test="diagram-title">
        {{
          diagram.title
        }}
      </caption>
      <thead>
        <tr class="head text-right">
          <th scope="col" class="text-left">Point</th>
          <th scope="col" class="pl-4">T, {{ unitText(unit()) }}</th>
          <th scope="col" class="pl-4 text-left">Residue curves</th>
          <th scope="col" v-for="a in diagram.axes" :key="a.title" class="pl-4">{{ a.title }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(m, k) in diagram.marks" :key="k" class="border-t border-rule2 text-right">
          <td class="py-[3px] text-left" :class="m.name.startsWith('pure') ? 'text-ink2' : 'font-medium'">
            {{ m.name }}
          </td>
          <td>{{ numberText(catalogue.shown(m.temperature ?? 0, 'temperature', unit()), 5) }}</td>
          <td class="pl-4 text-left">{{ m.text }}</td>
          <td v-for="(v, n) in m.place" :key="n">{{ v ? v.toFixed(4) : '–' }}</td>
        </tr>
      </tbody>
    </table>
    <p v-for="n in diagram.notes" :key="n" class="mt-2 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ n }}</p>
  </div>
</template>
