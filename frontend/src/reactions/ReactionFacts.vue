<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Diagram, ReactionLook } from '../api/client'
import DiagramChart from '../diagrams/DiagramChart.vue'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'

/** Heat, equilibrium and speed of a reaction over temperature, as pictures and as a table. */
const props = defineProps<{ look: ReactionLook; unit: string }>()
const catalogue = useCatalogue()
const plant = usePlant()
const shown = (si: number | null | undefined, kind: string) => {
  if (si === null || si === undefined) return '–'
  return numberText(catalogue.shown(si, kind, catalogue.displayUnit(kind, plant.unitSet)), 5)
}
const law = computed(() => props.look.forward)
/** A law that is an expression has constants of any number. */
const hasConstant = computed(() => !!law.value?.unit)
const heads = computed(() => {
  const of = (kind: string) => catalogue.displayUnit(kind, plant.unitSet)
  const energies = [
    { title: 'T', unit: of('temperature') },
    { title: 'Heat', unit: of('molar_enthalpy') },
    { title: 'Gibbs', unit: of('molar_enthalpy') },
    { title: 'ln K', unit: '' },
  ]
  const speeds = law.value ? [{ title: 'Half in', unit: 's' }] : []
  return [...energies, ...(hasConstant.value ? [{ title: 'k', unit: props.unit }] : []), ...speeds]
})
const rows = computed(() =>
  props.look.temperatures.map((T, k) => ({
    T,
    heat: props.look.heat[k],
    gibbs: props.look.gibbs[k],
    constant: props.look.log_constant[k],
    speed: law.value?.constants[k],
    half: law.value?.half_lives[k],
  })),
)
/** The speed is drawn by its logarithm. */
const pictures = computed(() => {
  const drawn = (title: string, name: string, kind: string, log: boolean, values: (number | null | undefined)[]) => ({
    title,
    axes: [
      { title: 'Temperature', kind: 'temperature', log: false },
      { title: name, kind, log },
    ],
    curves: [
      {
        name,
        role: 'line',
        points: props.look.temperatures.map((T, k) => (values[k] == null ? null : [T, values[k]!])),
        temperatures: [],
      },
    ],
    marks: [],
    notes: [],
    tables: [],
  })
  // Of what is only ever dissolved there is a heat and no constant.
  const found = props.look.log_constant.length
    ? [drawn('Equilibrium', 'ln K, fugacities over 1 bar', 'number', false, props.look.log_constant)]
    : []
  found.push(drawn('Heat of reaction', 'Heat of reaction', 'molar_enthalpy', false, props.look.heat))
  const speeds = law.value?.constants ?? []
  if (speeds.some((v) => v !== null))
    found.push(drawn('Constant', `k, ${unitText(props.unit)}`, 'number', true, speeds))
  return found as unknown as Diagram[]
})
const chosen = ref('Equilibrium')
const picture = computed(() => pictures.value.find((p) => p.title === chosen.value) ?? pictures.value[0]!)
</script>

<template>
  <div v-if="look.heat.length" class="flex min-h-0 flex-col">
    <p v-if="look.heat_at_reference !== null" class="mb-1" data-test="heat">
      Heat of reaction at 25 °C:
      <b class="font-semibold">{{ shown(look.heat_at_reference, 'molar_enthalpy') }}</b>
      {{ unitText(catalogue.displayUnit('molar_enthalpy', plant.unitSet)) }},
      {{ (look.heat_at_reference ?? 0) > 0 ? 'it takes heat' : 'it gives heat' }}.
    </p>
    <div role="radiogroup" aria-label="Picture" class="flex gap-3">
      <button
        v-for="p in pictures"
        :key="p.title"
        type="button"
        role="radio"
        :aria-checked="picture.title === p.title"
        class="text-[12px]"
        :class="picture.title === p.title ? 'font-semibold' : 'link'"
        @click="chosen = p.title"
      >
        {{ p.title }}
      </button>
    </div>
    <div class="h-[270px]"><DiagramChart :diagrams="[picture]" /></div>
    <table class="mt-2 w-full border-collapse text-[12px]">
      <thead>
        <tr class="border-b border-rule text-right align-bottom">
          <th v-for="h in heads" :key="h.title" scope="col" class="head py-1 pl-2">
            {{ h.title }}<span class="block font-normal">{{ unitText(h.unit) }}&nbsp;</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="at in rows" :key="at.T" class="border-b border-rule2 text-right">
          <td>{{ shown(at.T, 'temperature') }}</td>
          <td>{{ shown(at.heat, 'molar_enthalpy') }}</td>
          <td>{{ at.gibbs == null ? '–' : shown(at.gibbs, 'molar_enthalpy') }}</td>
          <td>{{ at.constant == null ? '–' : numberText(at.constant, 4) }}</td>
          <template v-if="law">
            <td v-if="hasConstant">{{ at.speed == null ? '–' : numberText(at.speed, 4) }}</td>
            <td>{{ at.half == null ? '–' : numberText(at.half, 3) }}</td>
          </template>
        </tr>
      </tbody>
    </table>
    <p v-if="law?.half_lives.length" class="mt-1 text-[12px] text-ink2">
      Half in: the time in which half of the reactants would go at the rate at the beginning, from them alone at 1 bar.
    </p>
  </div>
</template>
