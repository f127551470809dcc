<script setup lang="ts">
import { computed } from 'vue'
import DiagramChart from '../diagrams/DiagramChart.vue'
import type { StudyResult } from './answer'
import { aroundOf, frontOf, pathOf, type Optimum } from './pictures'
import { useShown } from './shown'

/** What a search for the best found: the best point, what binds there and at which price, how it was found, and the objective beside it. */
const props = defineProps<{ result: StudyResult; editable: boolean }>()
const emit = defineEmits<{ open: [number: number] }>()
const { withUnit, rate } = useShown()
const optimum = computed(() => props.result.optimum as Optimum)
const found = computed(() => props.result.cases[optimum.value.best ?? optimum.value.path.at(-1)!]!)
const start = computed(() => props.result.cases[optimum.value.start]!)
const binds = (of: string, name: string) => optimum.value.binding.find((b) => b.of === of && b.name === name)
const missed = (number: number) => optimum.value.missed!.includes(number)
const limits = computed(() =>
  optimum.value.limits.map((limit) => {
    const column = props.result.outputs[limit.output]!
    const ends = [
      limit.low != null ? `at least ${withUnit(limit.low, column)}` : '',
      limit.high != null ? `at most ${withUnit(limit.high, column)}` : '',
    ]
    const bound = limit.aside ? undefined : binds('limit', column.name)
    const wanted =
      limit.low != null && limit.low === limit.high
        ? `exactly ${withUnit(limit.low, column)}`
        : ends.filter(Boolean).join(', ')
    const state = limit.aside
      ? `set aside${limit.kept ? '' : ', and missed'}`
      : !limit.kept
        ? 'missed'
        : bound
          ? 'binds'
          : 'kept'
    return { column, wanted, state, bound, value: withUnit(found.value.outputs[limit.output], column) }
  }),
)
const inputs = computed(() =>
  props.result.inputs.map((column, k) => ({
    column,
    start: withUnit(start.value.inputs[k], column, 5),
    best: withUnit(found.value.inputs[k], column, 5),
    bound: binds('input', column.name),
  })),
)
const objective = computed(() => props.result.outputs[0]!)
const charts = computed(() => {
  const front = frontOf(props.result)
  return [...(front ? [front] : []), pathOf(props.result, missed), ...aroundOf(props.result, missed)]
})
</script>

<template>
  <section aria-label="What is best" class="mb-5">
    <p v-if="optimum.best == null" class="mb-3 border-l-2 border-warn bg-warnsoft px-2 py-1" data-test="no-optimum">
      {{ result.remarks?.[0] }}
    </p>
    <template v-else>
      <p
        v-for="remark in result.remarks"
        :key="remark"
        class="mb-2 max-w-[980px] border-l-2 border-warn bg-warnsoft px-2 py-1"
      >
        {{ remark }}
      </p>
    </template>
    <div class="mb-4 grid grid-cols-[repeat(auto-fit,minmax(560px,1fr))] gap-6">
      <table class="w-full self-start" data-test="optimum">
        <thead>
          <tr class="border-b border-rule text-left">
            <th scope="col" class="head">{{ optimum.best == null ? 'Nearest point' : 'Best point' }}</th>
            <th scope="col" class="head text-right!">Start</th>
            <th scope="col" class="head text-right!">{{ optimum.best == null ? 'Nearest' : 'Best' }}</th>
            <th scope="col" class="head pl-4!">At a bound, which costs</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(sense, k) in optimum.senses" :key="k" class="border-b border-rule2 align-baseline font-semibold">
            <td class="py-[3px]">
              {{ result.outputs[k]!.name }}
              <span class="font-normal text-ink2">{{ sense === 'least' ? 'least' : 'most' }}</span>
            </td>
            <td class="pl-4 text-right whitespace-nowrap font-normal">
              {{ withUnit(start.outputs[k], result.outputs[k]!, 5) }}
            </td>
            <td class="pl-4 text-right whitespace-nowrap">{{ withUnit(found.outputs[k], result.outputs[k]!, 5) }}</td>
            <td></td>
          </tr>
          <tr v-for="row in inputs" :key="row.column.of" class="border-b border-rule2 align-baseline">
            <td class="py-[3px]">{{ row.column.name }}</td>
            <td class="pl-4 text-right whitespace-nowrap">{{ row.start }}</td>
            <td class="pl-4 text-right whitespace-nowrap">{{ row.best }}</td>
            <td class="pl-4 whitespace-nowrap">
              <template v-if="row.bound">
                {{ row.bound.side === 'low' ? 'lower' : 'upper' }}; {{ rate(row.bound.price, objective, row.column) }}
              </template>
            </td>
          </tr>
        </tbody>
      </table>
      <table v-if="limits.length" class="w-full self-start" data-test="limits">
        <thead>
          <tr class="border-b border-rule text-left">
            <th scope="col" class="head">Limit</th>
            <th scope="col" class="head text-right!">{{ optimum.best == null ? 'Nearest' : 'At the best' }}</th>
            <th scope="col" class="head pl-4!">State</th>
            <th scope="col" class="head text-right!">Price</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in limits" :key="row.column.name" class="border-b border-rule2 align-baseline">
            <td class="py-[3px]">
              {{ row.column.name }}<span class="block text-[12px] text-ink2">{{ row.wanted }}</span>
            </td>
            <td class="pl-4 text-right whitespace-nowrap">{{ row.value }}</td>
            <td
              class="pl-4"
              :class="{
                'font-semibold': row.state === 'binds',
                'text-warn': row.state.startsWith('set aside') || row.state === 'missed',
              }"
            >
              {{ row.state }}
            </td>
            <td class="pl-4 text-right whitespace-nowrap">
              {{ row.bound ? rate(row.bound.price, objective, row.column) : '' }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p class="mb-3 max-w-[980px] text-[12px] text-ink2">
      {{ optimum.method }} {{ optimum.calculations }} calculations. A price is the change of {{ objective.name }} when
      the limit or bound is raised by one.
    </p>
    <button v-if="editable && optimum.best != null" type="button" class="btn mb-4" @click="emit('open', optimum.best)">
      Open the best case as a variant
    </button>
    <div class="grid grid-cols-[repeat(auto-fill,minmax(380px,1fr))] gap-4">
      <div v-for="d in charts" :key="d.title" class="h-[300px]"><DiagramChart :diagrams="[d]" /></div>
    </div>
  </section>
</template>
