<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { ParallelChart } from 'echarts/charts'
import { ParallelComponent } from 'echarts/components'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { useTheme } from '../app/theme'
import { echarts, variable } from '../diagrams/chart'
import { numberText, unitText } from '../quantities/format'
import type { StudyResult } from './answer'
import { useShown } from './shown'

/** All inputs and outputs side by side, a line a case; a range drawn on an axis leaves the cases that lie in it. */
const props = defineProps<{ result: StudyResult }>()
const emit = defineEmits<{ chosen: [numbers: number[] | null] }>()
echarts.use([ParallelChart, ParallelComponent])
const { unit, number } = useShown()
const { dark } = useTheme()
const box = ref<HTMLElement | null>(null)
const chart = shallowRef<ReturnType<typeof echarts.init> | null>(null)
const columns = computed(() => [...props.result.inputs, ...props.result.outputs])
const whole = computed(() => props.result.cases.filter((one) => one.outputs.every((value) => value != null)))
const lines = computed(() =>
  whole.value.map((one) => [...one.inputs, ...one.outputs].map((value, k) => number(value!, columns.value[k]!))),
)
function draw() {
  if (!box.value || !chart.value) return
  const [ink, soft, act] = [variable('--ink'), variable('--ink-2'), variable('--act')]
  const text = { color: ink, fontFamily: getComputedStyle(box.value).fontFamily, fontSize: 11 }
  chart.value.setOption(
    {
      animation: false,
      parallel: { left: 90, right: 80, top: 48, bottom: 24 },
      parallelAxis: columns.value.map((column, dim) => ({
        dim,
        name: `${column.name}\n${unitText(unit(column))}`,
        scale: true,
        nameTextStyle: { ...text, fontWeight: 600, lineHeight: 14 },
        axisLabel: { ...text, formatter: (value: number) => numberText(value, 4) },
        axisLine: { lineStyle: { color: soft } },
        axisTick: { lineStyle: { color: soft } },
        areaSelectStyle: { width: 16, color: act, opacity: 0.2, borderColor: act },
      })),
      series: [
        {
          type: 'parallel',
          data: lines.value,
          lineStyle: { color: act, width: 1, opacity: lines.value.length > 300 ? 0.15 : 0.45 },
          inactiveOpacity: 0.04,
        },
      ],
    },
    true,
  )
}
function narrowed() {
  const model = chart.value as unknown as {
    getModel(): { getSeriesByIndex(k: number): { getRawIndicesByActiveState(state: string): number[] } }
  }
  const series = model.getModel().getSeriesByIndex(0)
  const lie = series.getRawIndicesByActiveState('active').map((at) => whole.value[at]!.number)
  emit('chosen', series.getRawIndicesByActiveState('inactive').length ? lie : null)
}
/** A range of an axis in the place of one that is drawn. */
const range = ref({ axis: 0, low: '', high: '' })
function select(axis: number, intervals: number[][]) {
  chart.value?.dispatchAction({ type: 'axisAreaSelect', parallelAxisIndex: axis, intervals })
}
function keep() {
  const of = lines.value.map((line) => line[range.value.axis]!)
  const end = (text: string, otherwise: number) => (text.trim() === '' ? otherwise : Number(text.replace(',', '.')))
  const ends = [end(range.value.low, Math.min(...of)), end(range.value.high, Math.max(...of))]
  if (ends.every(Number.isFinite)) select(range.value.axis, [ends.sort((a, b) => a - b)])
}
const keepAll = () => columns.value.forEach((_, axis) => select(axis, []))
onMounted(() => {
  chart.value = echarts.init(box.value)
  chart.value.on('axisareaselected', narrowed)
  draw()
})
watch([lines, columns, dark], draw, { flush: 'post' })
useResizeObserver(box, () => chart.value?.resize())
onBeforeUnmount(() => chart.value?.dispose())
</script>

<template>
  <section aria-label="All values side by side" data-test="parallel">
    <h2 class="head mb-1">All values side by side</h2>
    <div ref="box" class="h-[320px] w-full" role="img" :aria-label="`${lines.length} cases as lines over all values`" />
    <p class="text-[12px] text-ink2">
      Draw a range on an axis, or type one: the table keeps the cases that lie in all ranges; click beside a range to
      drop it.
    </p>
    <form class="flex flex-wrap items-center gap-2 py-1" aria-label="Keep cases in a range" @submit.prevent="keep">
      <select v-model="range.axis" class="input w-[260px]" name="range-of" aria-label="Value">
        <option v-for="(column, k) in columns" :key="k" :value="k">{{ column.name }}</option>
      </select>
      <label class="flex items-center gap-1">
        from <input v-model="range.low" class="input w-[90px] text-right" name="range-from" inputmode="decimal" />
      </label>
      <label class="flex items-center gap-1">
        to <input v-model="range.high" class="input w-[90px] text-right" name="range-to" inputmode="decimal" />
      </label>
      <span>{{ unitText(unit(columns[range.axis]!)) }}</span>
      <button type="submit" class="btn">Keep these cases</button>
      <button type="button" class="link" @click="keepAll">Keep all</button>
    </form>
  </section>
</template>
