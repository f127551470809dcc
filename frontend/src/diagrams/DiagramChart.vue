<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import type { Diagram } from '../api/client'
import { useTheme } from '../app/theme'
import { numberText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import {
  curveName,
  echarts,
  fromPaper,
  onPaper,
  option,
  placesOf,
  placeText,
  rows,
  type Form,
  type Place,
  type Scale,
} from './chart'
import { download, downloadCsv } from './download'

/** One diagram, or several over each other: legend to hide and show, hover and click to read, files and a table of its numbers. */
const props = defineProps<{
  diagrams: Diagram[]
  form?: Form
  measured?: { name: string; points: Place[] }[]
}>()
const emit = defineEmits<{ pick: [place: Place] }>()
const catalogue = useCatalogue()
const plant = usePlant()
const { dark } = useTheme()
const box = ref<HTMLElement | null>(null)
const chart = shallowRef<ReturnType<typeof echarts.init> | null>(null)
const pinned = ref<Place[]>([])
/** Curves that were hidden by their names in the legend, until they are shown again. */
const hidden = ref<string[]>([])
const table = ref(false)
const size = ref<[number, number]>([600, 500])
const first = computed(() => props.diagrams[0])
const scales = computed<Scale[]>(() =>
  (first.value?.axes ?? []).map((a) => {
    const unit = catalogue.displayUnit(a.kind, plant.unitSet)
    return { title: a.title, unit, log: a.log, shown: (si: number) => catalogue.shown(si, a.kind, unit) }
  }),
)
const hot = computed<Scale>(() => {
  const unit = catalogue.displayUnit('temperature', plant.unitSet)
  return { title: 'temperature', unit, log: false, shown: (si) => catalogue.shown(si, 'temperature', unit) }
})
const look = computed(() => ({
  scales: scales.value,
  hot: hot.value,
  form: props.form ?? 'triangle',
  pinned: pinned.value,
  hidden: hidden.value,
  measured: props.measured ?? [],
  size: size.value,
}))
const numbers = computed(() => (table.value ? rows(props.diagrams, scales.value, hot.value) : []))
const summary = computed(() => `${first.value?.title ?? ''}. ${first.value?.curves.length ?? 0} curves.`)

onMounted(() => {
  chart.value = echarts.init(box.value)
  chart.value.on('legendselectchanged', (event) => {
    const { selected } = event as { selected: Record<string, boolean> }
    hidden.value = Object.keys(selected).filter((name) => !selected[name])
  })
  chart.value.getZr().on('click', (event) => read([event.offsetX, event.offsetY]))
  draw()
})
onBeforeUnmount(() => chart.value?.dispose())
useResizeObserver(box, ([entry]) => {
  chart.value?.resize()
  if (entry) size.value = [entry.contentRect.width, entry.contentRect.height]
})
watch([() => props.diagrams, look, dark], draw)
watch(
  () => first.value?.title,
  () => (pinned.value = []),
)
function draw() {
  if (chart.value && first.value) chart.value.setOption(option(props.diagrams, look.value), true)
}
/** A click keeps the place under it: on the nearest curve point if one is close, else in the free. */
function read(pixel: [number, number]) {
  if (!chart.value?.containPixel('grid', pixel) || !first.value) return
  const [x, y] = chart.value.convertFromPixel('grid', pixel) as [number, number]
  const near = nearest(pixel)
  const free = scales.value.length === 3 ? fromPaper(x, y, look.value.form) : null
  const place = near ?? free
  if (!place || (place.length >= 3 && Math.min(...place) < -0.01)) return
  pinned.value = [...pinned.value, place]
  emit('pick', free ?? place)
}
function nearest(pixel: [number, number]): Place | null {
  let best: Place | null = null
  let least = 30
  const seen = (d: Diagram) => d.curves.filter((c) => !hidden.value.includes(curveName(props.diagrams, d, c)))
  const all = props.diagrams.flatMap((d) => [
    ...seen(d).flatMap(placesOf),
    ...d.marks.map((m) => (m.temperature && m.place.length === 3 ? [...m.place, m.temperature] : m.place)),
  ])
  for (const p of all) {
    if (!p) continue
    const at = scales.value.length === 3 ? onPaper(p, look.value.form) : scales.value.map((s, k) => s.shown(p[k] ?? 0))
    const [px, py] = chart.value!.convertToPixel('grid', at) as [number, number]
    const distance = Math.hypot(px - pixel[0], py - pixel[1])
    if (distance < least) {
      least = distance
      best = p
    }
  }
  return best
}
const fileName = computed(() => (first.value?.title ?? 'diagram').replace(/[^a-z0-9]+/gi, '-').toLowerCase())
function png() {
  const url = chart.value?.getDataURL({ pixelRatio: 2, backgroundColor: dark.value ? '#141b1f' : '#fbf9f4' })
  if (url) download(url, 'image/png', `${fileName.value}.png`)
}
function svg() {
  const still = echarts.init(null, null, { renderer: 'svg', ssr: true, width: 900, height: 640 })
  still.setOption(option(props.diagrams, { ...look.value, size: [900, 640] }))
  download(still.renderToSVGString(), 'image/svg+xml', `${fileName.value}.svg`)
  still.dispose()
}
const csv = () => downloadCsv(rows(props.diagrams, scales.value, hot.value), fileName.value)
</script>

<template>
  <figure class="flex h-full min-h-0 flex-col">
    <figcaption class="flex items-baseline justify-between gap-3">
      <b class="font-medium" data-test="diagram-title">{{ first?.title }}</b>
      <span class="flex gap-3">
        <button class="link" :aria-pressed="table" @click="table = !table">{{ table ? 'Curves' : 'Numbers' }}</button>
        <button class="link" @click="png">PNG</button>
        <button class="link" @click="svg">SVG</button>
        <button class="link" @click="csv">CSV</button>
      </span>
    </figcaption>
    <div v-show="!table" ref="box" class="min-h-0 flex-1" role="img" :aria-label="summary"></div>
    <div v-if="table" class="min-h-0 flex-1 overflow-auto" tabindex="0" aria-label="Numbers of the diagram">
      <table class="w-full border-collapse">
        <thead>
          <tr>
            <th
              scope="col"
              v-for="(h, k) in numbers[0]"
              :key="k"
              class="head sticky top-0 bg-paper px-2 py-1 text-right"
            >
              {{ h }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(r, n) in numbers.slice(1)" :key="n" class="border-t border-rule2">
            <td v-for="(v, k) in r" :key="k" class="px-2 py-[2px] text-right">
              {{ typeof v === 'number' ? numberText(v, 6) : v }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-for="note in first?.notes ?? []" :key="note" class="border-l-2 border-warn bg-warnsoft px-2 py-1 text-[12px]">
      {{ note }}
    </p>
    <ul v-if="pinned.length" class="flex flex-wrap gap-x-4 text-[12px]" aria-label="Readings">
      <li v-for="(p, k) in pinned" :key="k">
        {{ placeText(p, scales, hot) }}
        <button
          class="px-1 text-ink3 hover:text-warn"
          :aria-label="`Remove reading ${k + 1}`"
          @click="pinned.splice(k, 1)"
        >
          ×
        </button>
      </li>
    </ul>
    <p v-else class="text-[12px] text-ink2">
      Click in the diagram to keep a reading; click a name above it to hide a curve.
    </p>
  </figure>
</template>
