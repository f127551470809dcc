<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, sentence, type Quantity, type Unit } from '../../api/client'
import { understand } from '../../data/understand'
import QuantityField from '../../quantities/QuantityField.vue'
import { useCatalogue } from '../../stores/catalogue'
import { useAims } from '../../stores/aims'
import { usePlant } from '../../stores/plant'

type Composition = { basis: string; values: Record<string, Quantity>; normalise?: boolean }

/** With `flows` a flow per component may stand in place of fractions. */
const props = defineProps<{ unit: Unit; flows: boolean }>()
const plant = usePlant()
const aims = useAims()
const catalogue = useCatalogue()
const refusal = ref('')
const told = ref('')
const file = ref<HTMLInputElement | null>(null)
const composition = computed<Composition>(
  () => (props.unit.spec.composition as Composition | undefined) ?? { basis: 'mole_fraction', values: {} },
)
const basis = computed(() => composition.value.basis)
const kind = computed(() => (isFlow(basis.value) ? basis.value : 'share'))
const ids = computed(() => (plant.document?.chemistry.components ?? []).map((c) => c.id))

const bases = computed(() =>
  Object.entries(catalogue.data?.bases ?? {}).filter(([key]) => props.flows || !isFlow(key) || key === basis.value),
)

function isFlow(name: string): boolean {
  return name.endsWith('flow')
}
function set(next: Composition, also: Record<string, null> = {}): Promise<string> {
  const value = Object.keys(next.values).length || next.basis !== 'mole_fraction' ? next : null
  return plant.edit({ kind: 'set_values', unit: props.unit.tag, values: { composition: value, ...also } })
}
/** Each value is an edit of its own: what others type meanwhile, or what is still on its way, stays. */
function commit(id: string, quantity: Quantity | null): Promise<string> {
  return give({ [id]: quantity })
}
function give(values: Record<string, Quantity | null>): Promise<string> {
  const paths = Object.fromEntries(Object.entries(values).map(([id, quantity]) => [`composition[${id}]`, quantity]))
  return plant.edit({ kind: 'set_values', unit: props.unit.tag, values: paths })
}
function chooseBasis(next: string) {
  const keep = isFlow(next) === isFlow(basis.value) && !isFlow(next)
  const also: Record<string, null> = isFlow(next) && props.unit.spec.flow ? { flow: null } : {}
  void set(
    {
      basis: next,
      values: keep ? composition.value.values : {},
      normalise: keep ? composition.value.normalise : false,
    },
    also,
  )
}
/** A table of components and amounts, CSV or XLSX. What it gives replaces the composition; what it leaves out is told. */
async function fromFile(event: Event) {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  if (!chosen || !plant.variant) return
  told.value = refusal.value = ''
  const answer = await api.POST('/api/variants/{variant_id}/feed-table', {
    params: { path: { variant_id: plant.variant.id } },
    body: { file: chosen as unknown as string },
    bodySerializer: () => {
      const form = new FormData()
      form.append('file', chosen)
      return form
    },
  })
  if (file.value) file.value.value = ''
  if (!answer.data) {
    refusal.value = `${chosen.name}: ${sentence(answer.error)}`
    return
  }
  const next = answer.data.composition as Composition
  const also: Record<string, null> = isFlow(next.basis) && props.unit.spec.flow ? { flow: null } : {}
  refusal.value = await set(next, also)
  told.value = answer.data.left_out.join(' ')
}
/** A column copied from a spreadsheet fills the components from the pasted one on. */
async function paste(event: ClipboardEvent, start: number) {
  const lines = (event.clipboardData?.getData('text/plain') ?? '').replace(/\r/g, '').trim().split('\n')
  if (lines.length < 2) return
  event.preventDefault()
  const unit = catalogue.displayUnit(kind.value, plant.unitSet)
  const found = await understand(
    lines.slice(0, ids.value.length - start).map((line) => ({
      text: line.split('\t').pop()?.trim() ?? '',
      kind: kind.value,
      unit,
    })),
  )
  const values: Record<string, Quantity> = {}
  for (const [k, value] of found.entries()) {
    if (value === null) continue
    if ('problem' in value) {
      refusal.value = `Line ${k + 1}: ${value.problem} Nothing was pasted.`
      return
    }
    values[ids.value[start + k]!] = value
  }
  refusal.value = await give(values)
}
</script>

<template>
  <section class="px-4 pt-2" :aria-label="`Composition of ${unit.tag}`">
    <div class="mb-1 flex items-center justify-between gap-2">
      <h3 class="head">Composition</h3>
      <select
        class="input w-[132px]! py-[2px]!"
        aria-label="Basis"
        :value="basis"
        :disabled="!plant.editable"
        @change="chooseBasis(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="[key, title] in bases" :key="key" :value="key">{{ title }}</option>
      </select>
    </div>
    <p v-if="!ids.length" class="text-ink2">
      No components yet:
      <RouterLink class="link" :to="`/plant/${plant.variant?.id}/chemistry`">choose them under Chemistry</RouterLink>.
    </p>
    <div v-for="(id, k) in ids" :key="id" @paste.capture="paste($event, k)">
      <QuantityField
        :key="id + basis"
        :label="id"
        :kind="kind"
        :disabled="!plant.editable"
        :given="composition.values[id] ?? null"
        :aim="aims.freedBy(unit.tag, `composition[${id}]`)"
        :commit="(q) => commit(id, q)"
        :data-field="'composition.' + id"
      />
    </div>
    <label v-if="!isFlow(basis)" class="mt-1 flex items-center gap-2 text-[12.5px]">
      <input
        type="checkbox"
        :checked="composition.normalise"
        :disabled="!plant.editable"
        @change="set({ ...composition, normalise: ($event.target as HTMLInputElement).checked })"
      />
      Normalise to 1 (typed numbers stay)
    </label>
    <button v-if="ids.length && plant.editable" class="link mt-1" @click="file?.click()">
      Take it from a table file
    </button>
    <input
      ref="file"
      type="file"
      class="sr-only"
      name="feed-table"
      accept=".csv,.txt,.xlsx"
      aria-label="Table of components and amounts"
      @change="fromFile"
    />
    <p v-if="told" role="status" class="mt-1 border-l-2 border-rule px-2 py-1 text-[12px] text-ink2">{{ told }}</p>
    <p v-if="refusal" role="alert" class="mt-1 border-l-2 border-warn bg-warnsoft px-2 py-1 text-[12px]">
      {{ refusal }}
    </p>
  </section>
</template>
