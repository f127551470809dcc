<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed } from 'vue'
import type { Quantity } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import QuantityField from '../quantities/QuantityField.vue'
import { useCatalogue } from '../stores/catalogue'
import Working from '../app/Working.vue'
import { KINDS, useDrawing } from '../stores/drawing'
import { usePlant } from '../stores/plant'
import AzeotropeTable from './AzeotropeTable.vue'
import DiagramChart from './DiagramChart.vue'

const plant = usePlant()
const catalogue = useCatalogue()
const drawing = useDrawing()
const asked = drawing.asked
const ternary = computed(() => drawing.kind.components === 3)
const byLevel = computed(() => ['boiling', 'vapour_over_liquid'].includes(asked.kind))
const takesPressure = computed(
  () =>
    (byLevel.value && asked.level === 'pressure') ||
    ['azeotropes', 'azeotropes_over', 'residue_curves', 'table'].includes(asked.kind),
)
const takesTemperature = computed(
  () => (byLevel.value && asked.level === 'temperature') || ['mixing', 'two_liquids'].includes(asked.kind),
)
const ofStream = computed(() => ['envelope', 'table'].includes(asked.kind))
const others = computed(() => (catalogue.data?.models ?? []).filter((m) => m.key !== plant.document?.chemistry.model))
const marks = computed(() => drawing.diagrams.flatMap((d) => d.marks))
const unit = computed(() => catalogue.displayUnit('temperature', plant.unitSet))

watchDebounced(
  () => [
    JSON.stringify({ ...asked, form: '' }),
    plant.revision,
    (ofStream.value || asked.column) && plant.answer?.revision,
  ],
  () => drawing.draw(),
  { debounce: 150, immediate: true },
)
function choose(position: number, id: string) {
  const next = [...drawing.components]
  const other = next.indexOf(id)
  if (other >= 0) next[other] = next[position]!
  next[position] = id
  asked.components = next
  asked.through = []
}
/** Clicked points were read in the other basis. */
function chooseBasis(basis: 'mole' | 'mass') {
  asked.basis = basis
  asked.through = []
}
/** A quantity that is kept here and not in the document; blank leaves it as it was. */
const keep = (field: 'pressure' | 'highest' | 'temperature' | 'coldest' | 'hottest') => (q: Quantity | null) => {
  if (q) asked[field] = q
  return Promise.resolve(q ? '' : 'A value is needed here.')
}
function picked(place: number[]) {
  if (asked.kind === 'residue_curves') asked.through = [...asked.through, place.map((v) => Math.max(v, 0))]
}
</script>

<template>
  <main class="grid min-h-0 grid-cols-[270px_minmax(0,1fr)_290px]">
    <section class="min-h-0 overflow-auto border-r border-rule px-4 py-3" aria-label="Which diagram">
      <div role="radiogroup" aria-label="Diagram" class="mb-3">
        <button
          v-for="k in KINDS"
          :key="k.key"
          role="radio"
          :aria-checked="asked.kind === k.key"
          class="block w-full border-b border-rule2 px-1 py-[4px] text-left"
          :class="asked.kind === k.key ? 'bg-actsoft' : 'hover:bg-actsoft'"
          @click="asked.kind = k.key"
        >
          <b class="font-medium">{{ k.title }}</b> <span class="text-ink2">{{ k.about }}</span>
        </button>
      </div>
      <template v-if="drawing.kind.components <= drawing.ids.length">
        <label
          v-for="(id, k) in ofStream || drawing.overAll ? [] : drawing.components"
          :key="k"
          class="mb-1 grid grid-cols-[90px_minmax(0,1fr)] items-center"
        >
          {{ drawing.components.length > 1 ? `Component ${k + 1}` : 'Component' }}
          <select
            class="input py-[2px]!"
            :value="id"
            @change="choose(Number(k), ($event.target as HTMLSelectElement).value)"
          >
            <option v-for="c in drawing.ids" :key="c">{{ c }}</option>
          </select>
        </label>
        <fieldset v-if="drawing.overAll" class="mb-2">
          <legend class="head">Among</legend>
          <label v-for="id in drawing.ids" :key="id" class="block">
            <input
              type="checkbox"
              :checked="drawing.searched.includes(id)"
              @change="
                asked.without = asked.without.includes(id)
                  ? asked.without.filter((x) => x !== id)
                  : [...asked.without, id]
              "
            />
            {{ id }}
          </label>
        </fieldset>
        <label v-if="ofStream" class="mb-1 grid grid-cols-[90px_minmax(0,1fr)] items-center">
          Stream
          <select
            class="input py-[2px]!"
            :value="drawing.stream"
            @change="asked.stream = ($event.target as HTMLSelectElement).value"
          >
            <option v-for="s in drawing.streams" :key="s">{{ s }}</option>
          </select>
        </label>
        <label v-if="drawing.quantities" class="mb-1 grid grid-cols-[90px_minmax(0,1fr)] items-center">
          Quantity
          <select
            class="input py-[2px]!"
            :value="drawing.quantity"
            @change="asked.quantity[asked.kind] = ($event.target as HTMLSelectElement).value"
          >
            <option v-for="q in drawing.quantities" :key="q" :value="q">{{ q.replace('_', ' ') }}</option>
          </select>
        </label>
        <div v-if="byLevel" role="radiogroup" aria-label="At which level" class="mb-1 flex gap-4">
          <label><input v-model="asked.level" type="radio" value="pressure" /> at a pressure</label>
          <label><input v-model="asked.level" type="radio" value="temperature" /> at a temperature</label>
        </div>
        <QuantityField
          v-if="takesPressure"
          :label="asked.kind === 'azeotropes_over' ? 'From' : 'Pressure'"
          kind="pressure"
          :given="asked.pressure"
          :commit="keep('pressure')"
        />
        <QuantityField
          v-if="asked.kind === 'azeotropes_over'"
          label="To"
          kind="pressure"
          :given="asked.highest"
          :commit="keep('highest')"
        />
        <QuantityField
          v-if="takesTemperature"
          label="Temperature"
          kind="temperature"
          :given="asked.temperature"
          :commit="keep('temperature')"
        />
        <template v-if="asked.kind === 'table'">
          <QuantityField label="From" kind="temperature" :given="asked.coldest" :commit="keep('coldest')" />
          <QuantityField label="To" kind="temperature" :given="asked.hottest" :commit="keep('hottest')" />
        </template>
        <label
          v-if="asked.kind === 'residue_curves'"
          class="mb-1 grid grid-cols-[minmax(0,1fr)_132px] items-center gap-2"
        >
          Curves
          <input v-model.number="asked.curves" class="input py-[2px]! text-right" type="number" min="0" max="60" />
        </label>
        <label
          v-if="asked.kind === 'residue_curves' && drawing.columns.length"
          class="mb-1 grid grid-cols-[90px_minmax(0,1fr)] items-center"
        >
          Stages of
          <select v-model="asked.column" class="input py-[2px]!" name="column">
            <option value="">no column</option>
            <option v-for="tag in drawing.columns" :key="tag">{{ tag }}</option>
          </select>
        </label>
        <label v-if="ternary" class="mb-1 grid grid-cols-[90px_minmax(0,1fr)] items-center">
          Fractions
          <select
            class="input py-[2px]!"
            name="basis"
            :value="asked.basis"
            @change="chooseBasis(($event.target as HTMLSelectElement).value as 'mole' | 'mass')"
          >
            <option value="mole">by mole</option>
            <option value="mass">by mass</option>
          </select>
        </label>
        <label v-if="ternary" class="mb-1 grid grid-cols-[90px_minmax(0,1fr)] items-center">
          Drawn as
          <select v-model="asked.form" class="input py-[2px]!">
            <option>triangle</option>
            <option>right angle</option>
          </select>
        </label>
        <label class="mb-1 grid grid-cols-[90px_minmax(0,1fr)] items-center">
          Beside it
          <select v-model="asked.beside" class="input py-[2px]!">
            <option value="">no second model</option>
            <option v-for="m in others" :key="m.key" :value="m.key">{{ m.title }}</option>
          </select>
        </label>
      </template>
    </section>
    <section class="flex min-h-0 flex-col px-5 py-3" aria-label="Diagram">
      <p v-if="drawing.refusal" role="alert" class="mb-2 border-l-2 border-warn bg-warnsoft px-2 py-1">
        {{ drawing.refusal }}
      </p>
      <Working v-if="drawing.busy" text="Calculating" :share="drawing.share" @stop="drawing.stop" />
      <DiagramChart
        v-if="drawing.diagrams.length && drawing.answered !== 'azeotropes'"
        class="flex-1"
        :diagrams="drawing.diagrams"
        :form="asked.form"
        :measured="drawing.measured"
        @pick="picked"
      />
      <template v-else>
        <AzeotropeTable v-for="d in drawing.diagrams" :key="d.title" :diagram="d" class="mb-6" />
      </template>
    </section>
    <aside class="min-h-0 overflow-auto border-l border-rule px-4 py-3" aria-label="What the diagram shows">
      <h2 class="head mb-1">Model</h2>
      <p class="mb-3">
        {{ catalogue.data?.models.find((m) => m.key === plant.document?.chemistry.model)?.title }}
        <span class="text-ink2">as the chemistry has it, with its pairs.</span>
      </p>
      <template v-if="marks.length && drawing.answered !== 'azeotropes'">
        <h2 class="head mb-1">Points of interest</h2>
        <ul>
          <li v-for="(m, k) in marks" :key="k" class="border-b border-rule2 py-[4px]">
            <b class="font-medium">{{ m.name }}</b>
            <p class="text-[12px] text-ink2">
              {{
                m.temperature
                  ? `${numberText(catalogue.shown(m.temperature, 'temperature', unit), 5)} ${unitText(unit)}`
                  : ''
              }}
              {{ m.text }}
              {{
                m.place
                  .map((v, n) => {
                    const a = drawing.diagrams[0]?.axes[n]
                    const u = a ? catalogue.displayUnit(a.kind, plant.unitSet) : ''
                    return `${a?.title} ${numberText(a ? catalogue.shown(v, a.kind, u) : v, 4)} ${unitText(u)}`.trim()
                  })
                  .join(', ')
              }}
            </p>
          </li>
        </ul>
      </template>
      <p v-if="asked.kind === 'residue_curves'" class="mt-3 text-ink2">
        A click in the triangle draws the curve through that point.
        <button v-if="asked.through.length" class="link" @click="asked.through = []">Remove these</button>
      </p>
    </aside>
  </main>
</template>
