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
      Draw a range on an axis: the table keeps the cases that lie in all ranges; click beside a range to drop it.
    </p>
  </section>
</template>
