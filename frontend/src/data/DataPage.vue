<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, sentence, type KeptFit, type Measured } from '../api/client'
import DiagramChart from '../diagrams/DiagramChart.vue'
import { numberText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { useFitting } from '../stores/fitting'
import { usePlant } from '../stores/plant'
import { columnsOf } from './columns'
import DataGrid from './DataGrid.vue'
import FitPanel from './FitPanel.vue'
import GenerateData from './GenerateData.vue'

const plant = usePlant()
const catalogue = useCatalogue()
const fitting = useFitting()
const told = ref('')
const shown = ref(0)
const file = ref<HTMLInputElement | null>(null)
const ids = computed(() => plant.fluids)
const kinds = computed(() => catalogue.data?.data_kinds ?? [])
const making = ref(false)
const diagrams = computed(() => fitting.answer?.diagrams ?? [])
/** The chosen picture, with that of the fit that is kept beside over it. */
const drawn = computed(() => {
  const own = diagrams.value[Math.min(shown.value, diagrams.value.length - 1)]!
  const other = fitting.beside?.answer.diagrams.find((d) => d.title === own.title)
  if (!other) return [own]
  const curves = other.curves.filter((c) => c.role === 'points' || c.name === 'fitted')
  return [own, { ...other, curves: curves.map((c) => ({ ...c, name: `${c.name}, beside` })) }]
})

const of = (kind: string) => kinds.value.find((k) => k.key === kind)
/** The columns of a new set of a kind, in the unit that is shown of each; what is rarely measured is added by hand. */
function columns(kind: string, components: number, kept: string[] = []) {
  const rare = of(kind)?.rare ?? []
  return columnsOf(of(kind), components)
    .filter(({ key, column }) => !rare.includes(column.key) || kept.includes(key))
    .map(({ key, column }) => ({ key, unit: catalogue.displayUnit(column.kind, plant.unitSet) }))
}
async function add() {
  const name = fitting.freeName('Data')
  const kind = ids.value.length > 1 ? 'vapour-liquid' : 'vapour pressure'
  const data: Measured = { name, kind, components: ids.value.slice(0, 2), columns: columns(kind, 2), rows: [] }
  told.value = await fitting.save(data)
  fitting.chosen = name
}
function change(part: Partial<Measured>) {
  const before = fitting.set
  if (before)
    void fitting.save({ ...before, ...part }, before.name).then((text) => {
      told.value = text
      if (text) fitting.drop(before.name)
    })
  if (part.name) fitting.chosen = part.name
}
function rekind(kind: string) {
  const before = fitting.set
  if (!before) return
  const more = [...before.components, ...ids.value.filter((id) => !before.components.includes(id))]
  const reacting = fitting.reactants.filter((id) => ids.value.includes(id)).slice(0, 9)
  const many = of(kind)?.alone ? 1 : Math.max(2, before.components.length)
  const components = of(kind)?.reacting && reacting.length ? reacting : more.slice(0, many)
  change({ kind, components, columns: columns(kind, components.length), rows: [], set_aside: {}, weights: {} })
}
function component(at: number, id: string) {
  const next = [...(fitting.set?.components ?? [])]
  const other = next.indexOf(id)
  if (other >= 0) next[other] = next[at]!
  next[at] = id
  change({ components: next })
}
/** Components that a set does not speak of yet. */
const more = computed(() => ids.value.filter((id) => !fitting.set?.components.includes(id)))
function extend() {
  const before = fitting.set
  if (!before) return
  const components = [...before.components, more.value[0]!]
  // What was typed stays in its columns; those of the new component are blank.
  const kept = before.columns.map((c) => c.key)
  const places = columns(before.kind, components.length, kept).map((c) => ({
    column: before.columns.find((old) => old.key === c.key) ?? c,
    at: before.columns.findIndex((old) => old.key === c.key),
  }))
  const rows = (before.rows ?? []).map((row) => places.map(({ at }) => (at < 0 ? null : (row[at] ?? null))))
  change({ components, columns: places.map((p) => p.column), rows })
}
function remove(name: string) {
  void plant.edit({ kind: 'set_data', name })
}
async function upload(event: Event) {
  const input = event.target as HTMLInputElement
  const chosen = input.files?.[0]
  if (!chosen || !plant.variant) return
  const before = fitting.set
  const kind = before?.kind ?? 'vapour-liquid'
  const meant = before?.components ?? ids.value.slice(0, of(kind)?.alone ? 1 : 2)
  const reply = await api.POST('/api/variants/{variant_id}/data-file', {
    params: { path: { variant_id: plant.variant.id } },
    body: {
      file: chosen as unknown as string,
      kind,
      components: meant,
      name: fitting.freeName(chosen.name.replace(/\.\w+$/, '').slice(0, 40)),
    },
    bodySerializer: (body) => {
      const form = new FormData()
      for (const [key, value] of Object.entries(body ?? {}))
        for (const one of Array.isArray(value) ? value : [value]) form.append(key, one as string | Blob)
      return form
    },
  })
  input.value = ''
  if (!reply.data) {
    told.value = sentence(reply.error)
    return
  }
  const refused = await fitting.add(reply.data.data, reply.data.doubts, `read ${chosen.name}`)
  told.value = refused || reply.data.left_out.join(' ')
  fitting.chosen = reply.data.data[0]?.name ?? ''
}
async function settle(right: boolean) {
  told.value = await fitting.settle(right)
}
async function reapply(fit: KeptFit) {
  told.value = (await fitting.reapply(fit)) || `${fit.name} is applied.`
}
</script>

<template>
  <main class="grid min-h-0 grid-cols-[220px_minmax(0,1fr)_330px]">
    <section class="min-h-0 overflow-auto border-r border-rule px-4 py-3" aria-labelledby="sets-title">
      <h1 id="sets-title" class="head mb-1">Measured data</h1>
      <ul>
        <li v-for="s in fitting.sets" :key="s.name" class="flex border-b border-rule2">
          <button
            class="min-w-0 flex-1 px-1 py-[5px] text-left"
            :class="fitting.set?.name === s.name ? 'bg-actsoft' : ''"
            :aria-pressed="fitting.set?.name === s.name"
            @click="fitting.chosen = s.name"
          >
            <b class="font-medium">{{ s.name }}</b>
            <span class="block text-[12px] text-ink2">
              {{ s.components.join(' / ') }}, {{ s.rows?.length ?? 0 }} points{{
                s.measured === false ? ', not measured' : ''
              }}
            </span>
          </button>
          <button
            v-if="plant.editable"
            class="px-1 text-ink3 hover:text-warn"
            :aria-label="`Remove ${s.name}`"
            @click="remove(s.name)"
          >
            ×
          </button>
        </li>
      </ul>
      <p v-if="!fitting.sets.length" class="my-2 text-ink2">
        No data yet. Add a set and paste a table from a spreadsheet, or read a file (CSV, XLSX, ThermoML).
      </p>
      <div v-if="plant.editable && ids.length" class="mt-2 flex flex-wrap gap-2">
        <button class="btn" @click="add">Add a set</button>
        <button class="btn" @click="file?.click()">Read a file</button>
        <button v-if="ids.length > 1" class="btn" @click="making = true">From a model</button>
        <input
          ref="file"
          type="file"
          class="sr-only"
          aria-label="Data file"
          accept=".csv,.txt,.xlsx,.xml"
          @change="upload"
        />
      </div>
      <p v-if="told" role="status" class="mt-2 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ told }}</p>
      <template v-if="fitting.fits.length">
        <h2 class="head mt-4 mb-1">Fits that were kept</h2>
        <ul>
          <li v-for="f in fitting.fits" :key="f.name" class="border-b border-rule2 py-[5px]">
            <b class="font-medium">{{ f.name }}</b>
            {{ fitting.called(f) }},
            {{ f.objective }}
            <span class="block text-[12px] text-ink2">
              sum of squares {{ numberText(f.sum_of_squares, 4) }};
              {{ f.deviations?.map((d) => `${d.column} ${numberText(d.mean, 3)}`).join(', ') }} (SI)
            </span>
            <span class="block text-[12px] text-ink2"
              >{{ f.quality }}, {{ f.author }}, {{ f.date }}. {{ f.remark }}</span
            >
            <button
              v-if="plant.editable && catalogue.data?.models.some((m) => m.key === f.model)"
              class="link"
              :aria-label="`Apply ${f.name}`"
              @click="reapply(f)"
            >
              Apply
            </button>
          </li>
        </ul>
      </template>
    </section>
    <section class="flex min-h-0 flex-col overflow-auto px-4 py-3" aria-label="The data set">
      <div v-if="fitting.doubted" role="alert" class="mb-2 border-l-2 border-warn bg-warnsoft px-2 py-1">
        <p v-for="text in fitting.doubted.doubts" :key="text">{{ text }}</p>
        <p class="mt-1 flex items-center gap-2">
          Check the units and the order of the columns; nothing is kept yet.
          <button class="btn" @click="settle(true)">Keep the values</button>
          <button class="btn" @click="settle(false)">Discard them</button>
        </p>
      </div>
      <GenerateData v-if="making" @done="making = false" />
      <div v-else-if="!fitting.set" class="max-w-[560px]">
        <h2 class="head mb-1">Check the model against measurements before using it</h2>
        <p class="mb-2">
          {{
            ids.length
              ? 'Add a set on the left and paste its points here, straight from a spreadsheet. Headings such as T/K, P (kPa), x1 set the columns and their units; without them the units in the head of the table hold.'
              : 'Choose the components first, under Components and model.'
          }}
        </p>
        <p class="mb-1">Kinds of data that are understood:</p>
        <ul class="mb-2 list-disc pl-5">
          <li v-for="k in kinds" :key="k.key">{{ k.title }}</li>
        </ul>
        <p class="text-ink2">
          Files: CSV or XLSX with headings such as <b class="font-medium">T, degC</b>,
          <b class="font-medium">P (kPa)</b>, <b class="font-medium">x1</b>; ThermoML as journals publish it. On the
          right a fit is then made of one set or several.
        </p>
      </div>
      <template v-else>
        <div class="mb-2 grid grid-cols-[150px_minmax(0,1fr)_130px_130px] gap-2">
          <input
            class="input"
            aria-label="Name of the data set"
            :value="fitting.set.name"
            :disabled="!plant.editable"
            @change="change({ name: ($event.target as HTMLInputElement).value })"
          />
          <select
            class="input"
            aria-label="Kind of data"
            :value="fitting.set.kind"
            :disabled="!plant.editable"
            @change="rekind(($event.target as HTMLSelectElement).value)"
          >
            <option v-for="k in kinds" :key="k.key" :value="k.key">{{ k.title }}</option>
          </select>
          <select
            v-for="(id, k) in fitting.set.components"
            :key="k"
            class="input"
            :aria-label="`Component ${k + 1} of the data`"
            :value="id"
            :disabled="!plant.editable"
            @change="component(k, ($event.target as HTMLSelectElement).value)"
          >
            <option v-for="c in ids" :key="c">{{ c }}</option>
          </select>
          <input
            class="input col-span-2"
            aria-label="Source of the data"
            placeholder="where the data come from"
            :value="fitting.set.source"
            :disabled="!plant.editable"
            @change="change({ source: ($event.target as HTMLInputElement).value })"
          />
          <button
            v-if="plant.editable && !of(fitting.set.kind)?.alone && more.length"
            class="btn"
            title="The data are of one component more"
            @click="extend"
          >
            + component
          </button>
          <p v-if="fitting.set.generated_by" class="col-span-2 self-center text-warn">
            ◇ marked as not measured, permanently
          </p>
          <label v-else class="col-span-2 self-center">
            <input
              type="checkbox"
              :checked="fitting.set.measured !== false"
              :disabled="!plant.editable"
              @change="change({ measured: ($event.target as HTMLInputElement).checked })"
            />
            measured, not generated from a model
          </label>
        </div>
        <DataGrid
          :data="fitting.set"
          :save="(d) => fitting.save(d)"
          :headed="fitting.paste"
          :class="diagrams.length ? 'max-h-[38%] shrink-0' : ''"
        />
      </template>
      <div v-if="diagrams.length" class="mt-2 flex min-h-0 flex-1 flex-col border-t border-rule pt-2">
        <select
          v-if="diagrams.length > 6"
          v-model.number="shown"
          class="input py-[2px]!"
          aria-label="Picture of the fit"
        >
          <option v-for="(d, k) in diagrams" :key="d.title" :value="k">{{ d.title }}</option>
        </select>
        <div v-else role="radiogroup" aria-label="Picture of the fit" class="flex flex-wrap gap-3">
          <button
            v-for="(d, k) in diagrams"
            :key="d.title"
            role="radio"
            :aria-checked="shown === k"
            class="text-[12px]"
            :class="shown === k ? 'font-semibold' : 'link'"
            @click="shown = k"
          >
            {{ d.title }}
          </button>
        </div>
        <DiagramChart class="min-h-[300px] flex-1" :diagrams="drawn" />
      </div>
    </section>
    <aside class="min-h-0 overflow-auto border-l border-rule px-4 py-3" aria-label="Fit">
      <FitPanel />
    </aside>
  </main>
</template>
