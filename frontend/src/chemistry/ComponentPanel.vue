<script setup lang="ts">
import type { BankComponent } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'

defineProps<{ component: BankComponent }>()
const catalogue = useCatalogue()
const plant = usePlant()
const shown = (value: number, kind: string) => {
  const unit = catalogue.displayUnit(kind, plant.unitSet)
  return { number: numberText(catalogue.shown(value, kind, unit), 6), unit: unitText(unit) }
}
</script>

<template>
  <div>
    <h2 class="text-[17px] font-semibold">{{ component.name }}</h2>
    <p class="mb-2 text-ink2">{{ component.formula }}, CAS {{ component.cas }}</p>
    <p class="mb-3 text-[12px] text-ink2">{{ component.synonyms.slice(0, 6).join(', ') }}</p>
    <h3 class="head mb-1">Constants, each with its source</h3>
    <dl>
      <div v-for="c in component.constants" :key="c.key" class="border-b border-rule2 py-[4px]">
        <div class="flex justify-between gap-2">
          <dt>{{ c.title }}</dt>
          <dd class="whitespace-nowrap">
            <b class="font-medium">{{ shown(c.value, c.kind).number }}</b>
            <span class="ml-1 text-ink2">{{ shown(c.value, c.kind).unit }}</span>
          </dd>
        </div>
        <p class="text-[11.5px] text-ink2">{{ c.source }}</p>
      </div>
    </dl>
  </div>
</template>
