<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import type { Profile, Unit } from '../api/client'
import { useTheme } from '../app/theme'
import { echarts } from '../diagrams/chart'
import { download } from '../diagrams/download'
import { numberText, unitText } from '../quantities/format'
import ApparatusDrawing from './ApparatusDrawing.vue'
import { panelsOf, sectionOption, sharedOf, type Frame, type Shower } from './panels'

/** The apparatus along its axis and every profile beside it on the same axis, so that one line reads across. */
const props = defineProps<{ unit: Unit; profile: Profile; show: Shower }>()
/** The row that is read. */
const row = defineModel<number>('row', { required: true })
const emit = defineEmits<{ open: [tag: string] }>()
const { dark } = useTheme()
const box = ref<HTMLElement | null>(null)
const canvas = ref<HTMLElement | null>(null)
const chart = shallowRef<ReturnType<typeof echarts.init> | null>(null)
const size = ref<[number, number]>([800, 560])
const standing = computed(() => !!props.profile.steps)
const drawn = computed(() => !!props.profile.ports?.length)
const lanes = computed(() => 1 + Math.max(0, ...(props.profile.ports ?? []).map((p) => p.lane ?? 0)))
const panels = computed(() => panelsOf(props.profile, props.show))
const frame = computed<Frame>(() => {
  const beside = drawn.value ? (standing.value ? 150 : 26 + lanes.value * 24 + 26) : standing.value ? 40 : 8
  const least = beside + panels.value.length * (standing.value ? 150 : 108)
  const [before, after] = standing.value
    ? [sharedOf(panels.value) ? 78 : 60, drawn.value ? 60 : 30]
    : [drawn.value ? 104 : 70, drawn.value ? 104 : 24]
  return standing.value
    ? { width: Math.max(size.value[0], least), height: size.value[1], before, after, beside }
    : { width: size.value[0], height: Math.max(size.value[1] - 4, least + 34), before, after, beside }
})
/** Room for the title of the axis stands below the last panel. */
const option = computed(() => {
  const inner = standing.value ? frame.value : { ...frame.value, height: frame.value.height - 34 }
  return sectionOption(props.profile, panels.value, props.show, inner, standing.value)
})
const places = computed(() => props.profile.along.values.map((v) => v ?? 0))
const length = computed(() => {
  const { width, height, before, after } = frame.value
  return (standing.value ? height : width) - before - after
})
function pixel(place: number): number {
  const [low, high] = [places.value[0]!, places.value.at(-1)!]
  return frame.value.before + (high > low ? (place - low) / (high - low) : 0.5) * length.value
}
const reading = computed(() => pixel(places.value[row.value] ?? places.value[0] ?? 0))
const spoken = computed(() => {
  const { along } = props.profile
  const unit = props.profile.steps ? '' : unitText(props.show.displayUnit(along.kind))
  return `${along.title} ${numberText(props.show.shown(places.value[row.value] ?? 0, along.kind))} ${unit}`.trim()
})
const nearest = (event: MouseEvent) => {
  const rect = canvas.value!.getBoundingClientRect()
  const where = standing.value ? event.clientY - rect.top : event.clientX - rect.left
  const distance = (k: number) => Math.abs(pixel(places.value[k]!) - where)
  row.value = places.value.reduce((best, _, k) => (distance(k) < distance(best) ? k : best), 0)
}
function key(event: KeyboardEvent) {
  const step = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1, Home: -1e6, End: 1e6 }[event.key]
  if (step === undefined) return
  event.preventDefault()
  event.stopPropagation()
  row.value = Math.min(places.value.length - 1, Math.max(0, row.value + step))
}

onMounted(() => {
  chart.value = echarts.init(canvas.value)
  draw()
})
onBeforeUnmount(() => chart.value?.dispose())
useResizeObserver(box, ([entry]) => {
  if (entry) size.value = [entry.contentRect.width, entry.contentRect.height]
})
watch([option, dark], draw, { flush: 'post' })
function draw() {
  chart.value?.resize({ width: frame.value.width, height: frame.value.height })
  chart.value?.setOption(option.value, true)
}
const name = () => `${props.unit.tag} ${props.profile.title}`.replace(/[^a-z0-9]+/gi, '-').toLowerCase()
function png() {
  const url = chart.value?.getDataURL({ pixelRatio: 2, backgroundColor: dark.value ? '#141b1f' : '#fbf9f4' })
  if (url) download(url, 'image/png', `${name()}.png`)
}
function svg() {
  const { width, height } = frame.value
  const still = echarts.init(null, null, { renderer: 'svg', ssr: true, width, height })
  still.setOption(option.value)
  download(still.renderToSVGString(), 'image/svg+xml', `${name()}.svg`)
  still.dispose()
}
defineExpose({ png, svg })
</script>

<template>
  <div ref="box" class="min-h-0 overflow-auto">
    <div
      class="relative"
      :style="{ width: `${frame.width}px`, height: `${frame.height}px` }"
      role="slider"
      tabindex="0"
      data-test="section"
      :aria-label="`Read ${profile.title.toLowerCase()}`"
      :aria-valuemin="0"
      :aria-valuemax="places.length - 1"
      :aria-valuenow="row"
      :aria-valuetext="spoken"
      @keydown="key"
      @click="nearest"
    >
      <div ref="canvas" class="absolute inset-0"></div>
      <svg
        class="pointer-events-none absolute inset-0"
        :width="frame.width"
        :height="frame.height"
        role="img"
        :aria-label="`${unit.tag} in section`"
      >
        <g
          v-if="drawn"
          class="pointer-events-auto"
          :transform="standing ? `translate(44 ${frame.before})` : `translate(${frame.before} 0)`"
        >
          <ApparatusDrawing
            :unit="unit"
            :profile="profile"
            :length="length"
            :standing="standing"
            @open="emit('open', $event)"
          />
        </g>
        <line
          v-if="standing"
          :x1="20"
          :x2="frame.width - 26"
          :y1="reading"
          :y2="reading"
          stroke="var(--act)"
          data-test="reading"
        />
        <line
          v-else
          :x1="reading"
          :x2="reading"
          :y1="8"
          :y2="frame.height - 50"
          stroke="var(--act)"
          data-test="reading"
        />
      </svg>
    </div>
  </div>
</template>
