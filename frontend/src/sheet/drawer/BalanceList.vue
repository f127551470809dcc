<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'
import { api, sentence, type Envelope } from '../../api/client'
import { numberText, unitText } from '../../quantities/format'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'

/** Balances over the border of the chosen units, or of the whole plant: mass, energy, components, elements. */
const plant = usePlant()
const catalogue = useCatalogue()
const sheet = useSheet()
const emit = defineEmits<{ go: [place: string, field: string | null] }>()
const found = shallowRef<Envelope | null>(null)
const refusal = ref('')
let turn = 0

watch(
  () => [plant.variant?.id, plant.answer, sheet.chosen.join('|')] as const,
  async () => {
    if (!plant.variant || !plant.current) return
    const mine = ++turn
    const answer = await api.POST('/api/variants/{variant_id}/balance', {
      params: { path: { variant_id: plant.variant.id } },
      body: { units: sheet.chosen },
    })
    if (mine !== turn) return
    found.value = answer.data ?? null
    refusal.value = answer.data ? '' : sentence(answer.error)
  },
  { immediate: true },
)
const unit = (kind: string) => catalogue.displayUnit(kind, plant.unitSet)
const told = (value: number, kind: string) => numberText(catalogue.shown(value, kind, unit(kind)))
const share = (gap: number) => (Math.abs(gap) < 1e-15 ? '0' : gap.toExponential(1))
</script>

<template>
  <div class="h-full overflow-auto px-4 py-2">
    <p class="mb-1 text-ink2">
      {{
        sheet.chosen.length
          ? `Over the border of ${sheet.chosen.join(', ')}.`
          : 'Over the border of the whole plant. Choose units on the sheet, with Shift for several, for the balance of a part.'
      }}
      <b v-if="found" class="font-semibold text-ink" data-test="worst">{{ found.worst }}.</b>
    </p>
    <p v-if="refusal" class="border-l-2 border-rule px-2 py-1">{{ refusal }}</p>
    <div v-if="found" class="flex flex-wrap items-start gap-x-8 gap-y-3" :class="plant.current ? '' : 'opacity-60'">
      <table data-test="crossings">
        <thead>
          <tr class="border-b border-rule text-right">
            <th scope="col" class="head pr-6 text-left">Stream</th>
            <th scope="col" class="head pr-4 text-left">Way</th>
            <th scope="col" class="head pr-4">Mass, {{ unitText(unit('mass_flow')) }}</th>
            <th scope="col" class="head">Energy, {{ unitText(unit('power')) }}</th>
          </tr>
        </thead>
        <tbody class="text-right">
          <tr v-for="c in found.crossings" :key="c.tag" class="border-b border-rule2">
            <td class="py-[2px] text-left">
              <button class="link tag" @click="emit('go', c.tag, null)">{{ c.tag }}</button>
            </td>
            <td class="text-left">{{ c.direction }}{{ c.kind === 'material' ? '' : `, ${c.kind}` }}</td>
            <td class="pr-4">{{ c.kind === 'material' ? told(c.mass_flow, 'mass_flow') : '' }}</td>
            <td>{{ told(c.enthalpy_flow, 'power') }}</td>
          </tr>
          <tr v-for="o in found.outside" :key="o.tag" class="border-b border-rule2">
            <td class="py-[2px] text-left">
              <button class="link tag" @click="emit('go', o.tag, null)">{{ o.tag }}</button>
            </td>
            <td class="text-left">from outside</td>
            <td />
            <td>{{ told(o.power, 'power') }}</td>
          </tr>
        </tbody>
      </table>
      <table data-test="balance">
        <thead>
          <tr class="border-b border-rule text-right">
            <th scope="col" class="head pr-6 text-left">Balance</th>
            <th scope="col" class="head pr-4">In</th>
            <th scope="col" class="head pr-4">Out</th>
            <th scope="col" class="head pr-4" />
            <th scope="col" class="head">Out minus in</th>
          </tr>
        </thead>
        <tbody class="text-right">
          <tr
            v-for="[line, kind, what] in [
              [found.mass, 'mass_flow', 'gap'],
              [found.energy, 'power', 'gap'],
              ...found.elements.map((e) => [e, 'mole_flow', 'gap'] as const),
              ...found.components.map((e) => [e, 'mole_flow', 'made'] as const),
            ] as const"
            :key="line.name + what"
            class="border-b border-rule2"
          >
            <td class="py-[2px] pr-6 text-left" :class="what === 'gap' ? 'font-medium' : 'text-ink2'">
              {{ line.name }}
            </td>
            <td class="pr-4">{{ told(line.enters, kind) }}</td>
            <td class="pr-4">{{ told(line.leaves, kind) }}</td>
            <td class="pr-4 text-left text-ink2">{{ unitText(unit(kind)) }}</td>
            <td>{{ what === 'gap' ? share(line.gap) : told(line.leaves - line.enters, kind) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-for="note in found?.notes ?? []" :key="note" class="mt-2 border-l-2 border-rule px-2 text-ink2">{{ note }}</p>
  </div>
</template>
