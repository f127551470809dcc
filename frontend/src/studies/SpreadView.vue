<script setup lang="ts">
import { computed } from 'vue'
import DiagramChart from '../diagrams/DiagramChart.vue'
import { numberText } from '../quantities/format'
import type { StudyResult } from './answer'
import { histogramOf } from './pictures'
import { useShown } from './shown'

/** How results are distributed, and which input it comes from. */
const props = defineProps<{ result: StudyResult }>()
const { withUnit } = useShown()
const QUANTILES = ['2.5 %', '25 %', 'middle', '75 %', '97.5 %']
const outputs = computed(() =>
  props.result.outputs.map((column, k) => ({
    column,
    spread: props.result.spread?.[k] ?? null,
    histogram: histogramOf(props.result, k),
  })),
)
const two = (value: number) => numberText(Math.abs(value) < 0.0005 ? 0 : value, 3)
</script>

<template>
  <section aria-label="How sure results are" class="mb-5">
    <p
      v-for="remark in result.remarks"
      :key="remark"
      class="mb-2 max-w-[980px] border-l-2 border-warn bg-warnsoft px-2 py-1"
    >
      {{ remark }}
    </p>
    <article
      v-for="one in outputs"
      :key="one.column.name"
      class="mb-5 grid grid-cols-[minmax(360px,1fr)_minmax(420px,1.2fr)] gap-6"
      :aria-label="one.column.name"
    >
      <template v-if="one.spread && one.histogram">
        <div class="h-[280px]"><DiagramChart :diagrams="[one.histogram]" /></div>
        <div data-test="spread">
          <p class="mb-2">
            {{ one.column.name }}: mean <b class="font-semibold">{{ withUnit(one.spread.mean, one.column, 5) }}</b>;
            from {{ withUnit(one.spread.quantiles[0], one.column, 5) }} to
            {{ withUnit(one.spread.quantiles[4], one.column, 5) }} in 95 % of {{ one.spread.count }} cases
          </p>
          <table class="mb-3 w-full">
            <thead>
              <tr class="border-b border-rule text-right">
                <th v-for="name in QUANTILES" :key="name" scope="col" class="head text-right!">{{ name }}</th>
              </tr>
            </thead>
            <tbody>
              <tr class="text-right">
                <td v-for="(value, k) in one.spread.quantiles" :key="k">{{ withUnit(value, one.column, 5) }}</td>
              </tr>
            </tbody>
          </table>
          <table class="w-full">
            <thead>
              <tr class="border-b border-rule text-left">
                <th scope="col" class="head">Comes from</th>
                <th scope="col" class="head text-right!">Rank correlation</th>
                <th v-if="one.spread.shares?.length" scope="col" class="head text-right!">Alone</th>
                <th v-if="one.spread.shares?.length" scope="col" class="head text-right!">In all</th>
                <td class="w-[120px]"></td>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(input, k) in result.inputs" :key="input.of" class="border-b border-rule2 align-baseline">
                <td class="py-[3px]">{{ input.name }}</td>
                <td class="text-right">
                  <template v-if="one.spread.ranks[k] == null">–</template>
                  <template v-else>
                    {{ two(one.spread.ranks[k]!) }}
                    <span v-if="Math.abs(one.spread.ranks[k]!) < one.spread.noise" class="text-[12px] text-ink2"
                      >chance</span
                    >
                  </template>
                </td>
                <template v-if="one.spread.shares?.length">
                  <td class="text-right">
                    {{ two(one.spread.shares[k]!.first) }} ± {{ two(one.spread.shares[k]!.first_doubt) }}
                  </td>
                  <td class="text-right">
                    {{ two(one.spread.shares[k]!.total) }} ± {{ two(one.spread.shares[k]!.total_doubt) }}
                  </td>
                </template>
                <td class="pl-4">
                  <div
                    class="h-[10px]"
                    :class="(one.spread.ranks[k] ?? 0) < 0 ? 'bg-warn' : 'bg-act'"
                    :style="{ width: `${100 * Math.abs(one.spread.ranks[k] ?? 0)}%` }"
                  />
                </td>
              </tr>
            </tbody>
          </table>
          <p v-if="one.spread.shares?.length" class="pt-1 text-[12px] text-ink2">
            Indices of Sobol: the share of the variance that an input has by itself, and with all it does together with
            others.
          </p>
        </div>
      </template>
      <p v-else class="col-span-2 text-warn">{{ one.column.name }}: too few cases have a value for a distribution.</p>
    </article>
  </section>
</template>
