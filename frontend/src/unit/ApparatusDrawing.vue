<script setup lang="ts">
import { computed } from 'vue'
import type { Profile, Unit } from '../api/client'
import { usePlant } from '../stores/plant'

/** The apparatus in section along its axis: what flows through it lane by lane, and the streams that come and go, at their places. */
const props = defineProps<{ unit: Unit; profile: Profile; length: number; standing: boolean }>()
const emit = defineEmits<{ open: [tag: string] }>()
const plant = usePlant()
/** Where the first lane begins, how wide lanes are, and how long the lines at the ports. */
const FIRST = 26
const LANE = 24
const REACH = 40

/** A line through points given along and across the axis. */
function path(...points: [number, number][]): string {
  return 'M' + points.map(([a, c]) => (props.standing ? `${c} ${a}` : `${a} ${c}`)).join('L')
}
/** A filled arrow head with its tip at a place, pointing along the axis or across it, forward (1) or back (-1). */
function arrow(a: number, c: number, direction: number, across = false): string {
  const back = -7 * direction
  return across
    ? `${path([a, c], [a - 4, c + back], [a + 4, c + back])}z`
    : `${path([a, c], [a + back, c - 4], [a + back, c + 4])}z`
}
const values = computed(() => props.profile.along.values.map((v) => v ?? 0))
/** Along the axis in pixels, from the first row to the last. */
function at(place: number): number {
  const [low, high] = [values.value[0] ?? 0, values.value.at(-1) ?? 1]
  return high > low ? ((place - low) / (high - low)) * props.length : props.length / 2
}
const lanes = computed(() => 1 + Math.max(...props.profile.ports!.map((p) => p.lane ?? 0)))
const depth = computed(() => lanes.value * LANE)
const middle = (lane: number) => FIRST + (lane + 0.5) * LANE
const ports = computed(() =>
  props.profile.ports!.map((p) => {
    const inward = plant.typeOf(props.unit)?.ports.find((q) => q.key === p.port)?.direction === 'in'
    const tags = (plant.document?.streams ?? [])
      .filter((s) => (inward ? s.target : s.source).unit === props.unit.tag)
      .filter((s) => (inward ? s.target : s.source).port === p.port && (!p.stream || s.tag === p.stream))
      .map((s) => s.tag)
    const place = at(p.place)
    // What is fed to a stage comes from the side, so that it does not lie over what leaves at that end.
    const side = props.profile.steps && inward
    const first = !side && place < 0.02 * props.length
    const last = !side && place > 0.98 * props.length
    const c = middle(p.lane ?? 0)
    const outside: [number, number] = first ? [-REACH, c] : last ? [props.length + REACH, c] : [place, FIRST - 18]
    const wall: [number, number] = first ? [0, c] : last ? [props.length, c] : [place, FIRST]
    const forward = (first ? 1 : last ? -1 : 1) * (inward ? 1 : -1)
    const tip = inward ? wall : outside
    return {
      key: p.port + (p.stream ?? ''),
      lane: p.lane ?? 0,
      inward,
      place,
      tags,
      line: path(outside, wall),
      head: arrow(...tip, forward, !(first || last)),
      label: props.standing ? outside.toReversed() : outside,
      anchor: props.standing ? (first || last ? 'middle' : 'end') : first ? 'end' : 'start',
      shift: props.standing && (first || last) ? (first ? -6 : 14) : 4,
    }
  }),
)
/** What flows in a lane: from where it comes in to where it leaves. */
const flows = computed(() =>
  Array.from({ length: lanes.value }, (_, lane) => {
    const inside = ports.value.filter((p) => p.lane === lane)
    const from = inside.find((p) => p.inward)?.place
    const to = inside.find((p) => !p.inward)?.place
    if (from === undefined || to === undefined) return []
    const c = middle(lane)
    return [{ line: path([from, c], [to, c]), head: arrow((from + to) / 2, c, to < from ? -1 : 1) }]
  }).flat(),
)
const shell = computed(
  () =>
    `${path([0, FIRST], [props.length, FIRST], [props.length, FIRST + depth.value], [0, FIRST + depth.value])}z` +
    Array.from({ length: lanes.value - 1 }, (_, k) =>
      path([0, FIRST + (k + 1) * LANE], [props.length, FIRST + (k + 1) * LANE]),
    ).join(''),
)
const stages = computed(() =>
  props.profile.steps
    ? values.value.map((v) => path([at(v), FIRST + 5], [at(v), FIRST + depth.value - 5])).join('')
    : '',
)
</script>

<template>
  <g fill="none" stroke="var(--ink)" stroke-width="1.3">
    <path :d="shell" fill="var(--field)" />
    <path v-if="stages" :d="stages" stroke-width="0.8" />
    <g v-for="(f, k) in flows" :key="k">
      <path :d="f.line" stroke-width="0.8" stroke-dasharray="3 3" />
      <path :d="f.head" fill="var(--ink)" stroke="none" />
    </g>
    <g v-for="p in ports.filter((q) => q.tags.length)" :key="p.key">
      <path :d="p.line" />
      <path :d="p.head" fill="var(--ink)" stroke="none" />
      <text
        v-for="(tag, k) in p.tags"
        :key="tag"
        :x="p.label[0]! + (p.anchor === 'end' ? -4 : p.anchor === 'start' ? 4 : 0)"
        :y="p.label[1]! + p.shift - 13 * k"
        :text-anchor="p.anchor"
        class="tag cursor-pointer"
        font-size="12"
        fill="var(--act)"
        stroke="none"
        @click.stop="emit('open', tag)"
      >
        {{ tag }}
      </text>
    </g>
  </g>
</template>
