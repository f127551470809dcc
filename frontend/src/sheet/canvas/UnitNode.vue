<script setup lang="ts">
import { Handle, Position, useVueFlow } from '@vue-flow/core'
import { computed, ref, watch } from 'vue'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'
import { useBeside } from './beside'
import { boxOf, platePlace, portPlace, poseTransform } from './drawing'
import { sideOf } from './routing'
import StateMark from './StateMark.vue'
import { symbolOf } from './symbols'

const props = defineProps<{ id: string; data: { type: string; flipped: boolean; turned: number } }>()
const plant = usePlant()
const catalogue = useCatalogue()
const type = computed(() => plant.typeOf(plant.unit(props.id)) ?? catalogue.type(props.data.type))
const paths = computed(() => symbolOf(type.value?.symbol).paths)
const symbol = computed(() => boxOf(type.value, props.data))
/** One unit of the sheet is a stop of the Tab key: the selected one, else the first; arrows go on from there. */
const roving = computed(() =>
  plant.unit(plant.selected) ? plant.selected === props.id : plant.document?.units?.[0]?.tag === props.id,
)
const here = ref<HTMLElement | null>(null)
function focused() {
  if (here.value?.matches(':focus-visible')) plant.selected = props.id
}
/** Who walks along the streams by key takes the focus along. */
watch(
  () => plant.selected === props.id,
  (now) => {
    const before = window.document.activeElement
    if (now && before !== here.value && before?.matches('.vue-flow__node [role=button]'))
      here.value?.focus({ preventScroll: true })
  },
)
const mark = computed(() => plant.mark(props.id))
const sheet = useSheet()
const beside = useBeside()
const told = computed(() => beside.told.value.get(props.id) ?? 0)
const texts = computed(() => beside.texts.value[props.id])
const chosen = computed(() => sheet.chosen.includes(props.id))
const plate = computed(() => platePlace(type.value, props.data))
const places = computed(() => new Map((type.value?.ports ?? []).map((p) => [p.key, portPlace(p.place, props.data)])))
// Ports that come with a row of a table are made known to the canvas.
const { updateNodeInternals } = useVueFlow()
watch(
  () => [...places.value.keys()].join(),
  () => updateNodeInternals([props.id]),
  { flush: 'post' },
)
const SIDES = { left: Position.Left, right: Position.Right, top: Position.Top, bottom: Position.Bottom }
const WORDS = {
  open: 'values missing',
  ready: 'can be calculated',
  current: 'calculated',
  stale: 'out of date',
  fault: 'fault',
}
</script>

<template>
  <div
    class="relative"
    role="button"
    :tabindex="roving ? 0 : -1"
    :data-test="'unit-' + id"
    :aria-label="`${type?.title} ${id}, ${WORDS[mark]}`"
    :aria-pressed="chosen"
    ref="here"
    @focus="focused"
    :style="{ width: symbol.width + 'px', height: symbol.height + 'px' }"
  >
    <div v-if="chosen" class="absolute -inset-[7px] rounded-[3px] border-[1.6px] border-act" />
    <svg :width="symbol.width" :height="symbol.height" class="absolute inset-0 overflow-visible">
      <g :transform="poseTransform(type, data)">
        <path
          v-for="(d, k) in paths"
          :key="k"
          :d="d"
          :fill="k ? 'none' : 'var(--paper)'"
          stroke="var(--ink)"
          stroke-width="1.5"
          stroke-linejoin="round"
        />
      </g>
    </svg>
    <Handle
      v-for="port in type?.ports ?? []"
      :id="port.key"
      :key="port.key"
      :type="port.direction === 'out' ? 'source' : 'target'"
      :position="SIDES[sideOf(places.get(port.key)!)]"
      :title="port.title"
      class="port"
      :class="port.kind"
      :style="{
        left: places.get(port.key)![0] * symbol.width + 'px',
        top: places.get(port.key)![1] * symbol.height + 'px',
        right: 'auto',
        bottom: 'auto',
        transform: 'translate(-50%, -50%)',
      }"
    />
    <div
      class="absolute flex items-center gap-[6px] rounded-[2px] border border-rule bg-paper px-[5px] leading-[16px] whitespace-nowrap"
      :style="{
        left: plate.x + 'px',
        top: plate.y + 'px',
        transform: `${plate.middle ? 'translateX(-50%) ' : ''}scale(var(--lettering))`,
        transformOrigin: plate.middle ? 'top center' : 'top left',
      }"
    >
      <span class="tag text-[12px]">{{ id }}</span>
      <StateMark :mark="mark" />
      <span v-if="told" class="text-[10.5px] font-semibold text-warn">{{ told }}</span>
    </div>
    <ul
      v-if="texts"
      class="absolute text-[10.5px] leading-[13px] whitespace-nowrap"
      :class="plant.current ? 'text-ink2' : 'text-ink3 italic'"
      :style="{
        left: plate.x + 'px',
        top: `calc(${plate.y}px + 21px * var(--lettering))`,
        transform: `${plate.middle ? 'translateX(-50%) ' : ''}scale(var(--lettering))`,
        transformOrigin: plate.middle ? 'top center' : 'top left',
      }"
    >
      <li v-for="line in texts" :key="line">{{ line }}</li>
    </ul>
  </div>
</template>
