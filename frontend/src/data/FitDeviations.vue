<script setup lang="ts">
import { computed } from 'vue'
import type { FitAnswer } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { useFitting } from '../stores/fitting'
import { usePlant } from '../stores/plant'

/** How far a fit is from its data, beside another fit to them where one is kept for that. */
const fitting = useFitting()
const catalogue = useCatalogue()
const plant = usePlant()
const KINDS: Record<string, string> = { P: 'pressure_difference', T: 'temperature_difference' }
const isAmount = (column: string) => /^c\d$/.test(column)
/** Concentrations in the unit of their column. */
function unit(data: string, column: string): string {
  const typed = fitting.sets.find((s) => s.name === data)?.columns.find((c) => c.key === column)?.unit
  if (isAmount(column)) return typed || 'mol/m3'
  return KINDS[column] ? catalogue.displayUnit(KINDS[column], plant.unitSet) : column === 'h' ? 'J/mol' : ''
}
function amount(data: string, column: string, value: number): string {
  const kind = isAmount(column) ? 'molar_concentration' : KINDS[column]
  return numberText(kind ? catalogue.shown(value, kind, unit(data, column)) : value, 3)
}
const other = (data: string, column: string) =>
  fitting.beside?.answer.deviations.find((d) => d.data === data && d.column === column)
const rows = computed(() =>
  (fitting.answer?.deviations ?? []).map((d) => ({
    ...d,
    other: other(d.data, d.column),
    unit: unitText(unit(d.data, d.column)),
  })),
)
/** By it fits of different laws to the same values are compared. */
const criterion = (of: FitAnswer) =>
  of.akaike == null ? '' : `, information criterion ${numberText(of.akaike, 4)} (lower is better)`
function keep() {
  if (fitting.answer) fitting.beside = { title: fitting.title, answer: fitting.answer }
}
</script>

<template>
  <div v-if="fitting.answer" data-test="deviations">
    <p>
      {{ fitting.title }}: sum of squares
      <b class="font-medium">{{ numberText(fitting.answer.sum_of_squares, 5) }}</b>{{ criterion(fitting.answer) }},
      {{ fitting.answer.quality }}.
      <button v-if="!fitting.beside" class="link" @click="keep">Keep for comparison</button>
    </p>
    <p v-if="fitting.beside" class="text-ink2">
      Beside it {{ fitting.beside.title }}: sum of squares
      <b class="font-medium">{{ numberText(fitting.beside.answer.sum_of_squares, 5) }}</b>{{
        criterion(fitting.beside.answer)
      }}.
      <button class="link" @click="fitting.beside = null">Remove it</button>
    </p>
    <table class="my-2 w-full border-collapse">
      <thead>
        <tr class="head text-right">
          <th scope="col" class="text-left">Deviation</th>
          <th scope="col">mean</th>
          <th scope="col" v-if="fitting.beside">beside</th>
          <th scope="col">share</th>
          <th scope="col">largest</th>
          <th scope="col" v-if="fitting.beside">beside</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(d, k) in rows" :key="k" class="border-t border-rule2 text-right [&>td]:pl-2">
          <td class="text-left">
            {{ d.column }}<template v-if="d.unit">, {{ d.unit }}</template> <span class="text-ink2">{{ d.data }}</span>
          </td>
          <td>{{ amount(d.data, d.column, d.mean) }}</td>
          <td v-if="fitting.beside" class="text-ink2">{{ d.other ? amount(d.data, d.column, d.other.mean) : '–' }}</td>
          <td class="whitespace-nowrap">{{ d.relative == null ? '–' : `${numberText(100 * d.relative, 3)} %` }}</td>
          <td>{{ amount(d.data, d.column, d.largest) }}</td>
          <td v-if="fitting.beside" class="text-ink2">
            {{ d.other ? amount(d.data, d.column, d.other.largest) : '–' }}
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
