<script setup lang="ts">
import { computed } from 'vue'
import type { Edit, Result } from '../../api/client'
import { usePlant } from '../../stores/plant'

/** Every recycle: what is torn, how it was closed, and how fast, as a plot on a logarithmic axis. */
const plant = usePlant()
const emit = defineEmits<{ go: [place: string, field: string | null] }>()
const loops = computed(() => plant.result?.loops ?? [])
const WIDTH = 360
const HEIGHT = 108
const DECADES = 14

type Loop = NonNullable<Result['loops']>[number]
/** Streams of a loop that could be torn, and those that were asked for. */
const inside = (loop: Loop) =>
  (plant.document?.streams ?? []).filter(
    (s) => loop.units.includes(s.source.unit) && loop.units.includes(s.target.unit),
  )
const inner = (loop: Loop) =>
  inside(loop)
    .map((s) => s.tag)
    .filter((tag) => !loop.tears.includes(tag))
const asked = (loop: Loop) =>
  inside(loop)
    .filter((s) => s.torn)
    .map((s) => s.tag)
function tear(loop: Loop, event: Event) {
  const select = event.target as HTMLSelectElement
  const tag = select.value
  select.value = ''
  const edits: Edit[] = asked(loop).map((old) => ({ kind: 'set_tear', tag: old, torn: false }))
  if (tag !== '…') edits.push({ kind: 'set_tear', tag, torn: true })
  void plant.edit({
    kind: 'batch',
    edits,
    label: tag === '…' ? 'the cut is left to the program' : `loop cut in ${tag}`,
  })
}
/** Left is the first pass; up is 1, the bottom 1e-14. */
function points(history: number[]): [number, number][] {
  const wide = Math.max(history.length - 1, 1)
  return history.map((error, k) => {
    const level = Math.min(DECADES, Math.max(-1, -Math.log10(Math.max(error, 1e-30))))
    return [34 + ((WIDTH - 44) * k) / wide, 8 + ((HEIGHT - 26) * (level + 1)) / (DECADES + 1)]
  })
}
const power = (error: number | undefined) => (error === undefined ? '–' : error.toExponential(1).replace('e', ' e'))
</script>

<template>
  <div class="h-full overflow-auto px-4 py-2">
    <p v-if="!loops.length" class="text-ink2">
      No recycle on this sheet. Send a stream back to a mixer upstream and it is closed by itself.
    </p>
    <section v-for="(loop, k) in loops" :key="loop.tears.join()" class="flex gap-6 border-b border-rule2 py-2">
      <div class="w-[330px] shrink-0">
        <h3 class="head">Loop {{ k + 1 }}, {{ loop.closed ? 'closed' : 'not closed' }}</h3>
        <p>
          Torn:
          <button v-for="tag in loop.tears" :key="tag" class="link tag mr-2" @click="emit('go', tag, null)">
            {{ tag }}
          </button>
        </p>
        <label v-if="plant.editable" class="mr-4 inline-flex items-center gap-1 text-ink2">
          tear instead
          <select class="input w-auto! py-[1px]!" :name="`tear-${k + 1}`" value="" @change="tear(loop, $event)">
            <option value="" disabled>a stream</option>
            <option v-for="tag in inner(loop)" :key="tag" :value="tag">{{ tag }}</option>
            <option v-if="asked(loop).length" value="…">what the program chooses</option>
          </select>
        </label>
        <p class="text-ink2">
          Through
          <button v-for="tag in loop.units" :key="tag" class="link tag mr-1" @click="emit('go', tag, null)">
            {{ tag }}
          </button>
        </p>
        <p>
          {{ loop.history.length }} {{ loop.history.length === 1 ? 'pass' : 'passes' }} by
          {{ loop.method || 'the last solution' }}, last change {{ power(loop.history.at(-1)) }}, most in
          {{ loop.slowest }}.
        </p>
      </div>
      <svg
        :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
        class="h-[108px] w-[360px]"
        role="img"
        :aria-label="`Largest change in each of ${loop.history.length} passes`"
      >
        <g v-for="d in [0, 4, 8, 12]" :key="d" stroke="var(--rule-2)">
          <line
            x1="34"
            :x2="WIDTH - 10"
            :y1="8 + ((HEIGHT - 26) * (d + 1)) / 15"
            :y2="8 + ((HEIGHT - 26) * (d + 1)) / 15"
          />
          <text
            x="30"
            :y="12 + ((HEIGHT - 26) * (d + 1)) / 15"
            text-anchor="end"
            font-size="10"
            fill="var(--ink-2)"
            stroke="none"
          >
            {{ d ? `1e-${d}` : '1' }}
          </text>
        </g>
        <polyline
          :points="
            points(loop.history)
              .map((p) => p.join(','))
              .join(' ')
          "
          fill="none"
          stroke="var(--act)"
          stroke-width="1.6"
        />
        <circle v-for="(p, n) in points(loop.history)" :key="n" :cx="p[0]" :cy="p[1]" r="2.6" fill="var(--act)">
          <title>Pass {{ n + 1 }}: {{ power(loop.history[n]) }}</title>
        </circle>
        <text :x="WIDTH - 10" :y="HEIGHT - 4" text-anchor="end" font-size="10" fill="var(--ink-2)">
          pass, 1 to {{ loop.history.length }}; largest change, of the feed
        </text>
      </svg>
    </section>
  </div>
</template>
