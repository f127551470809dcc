<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { api, sentence, type EstimatedComponent, type Quantity } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import QuantityField from '../quantities/QuantityField.vue'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'

/** A component that the bank does not have: typed in, from its groups, from boiling point and density, or cuts of a distillation curve. */
const emit = defineEmits<{ done: [] }>()
const plant = usePlant()
const catalogue = useCatalogue()
const ways = [
  { key: 'boiling', title: 'Boiling point and density' },
  { key: 'groups', title: 'Groups of the molecule' },
  { key: 'distillation', title: 'Distillation curve' },
  { key: 'typed', title: 'Typed constants' },
  { key: 'solid', title: 'Typed constants of a solid' },
  { key: 'dissolved', title: 'Typed constants of a dissolved salt' },
] as const
const form = reactive({
  way: 'boiling' as (typeof ways)[number]['key'],
  id: '',
  boiling: null as Quantity | null,
  density: null as Quantity | null,
  mass: null as Quantity | null,
  stands: '',
  groups: {} as Record<number, number>,
  curve: '0\t40\n10\t65\n30\t85\n50\t105\n70\t128\n90\t160\n100\t180',
  unit: 'degC',
  astm: false,
  cuts: 6,
  typed: {} as Record<string, Quantity | null>,
  heat: '',
  formula: '',
})
const made = ref<EstimatedComponent[]>([])
const refusal = ref('')
const groups = computed(() => Object.entries(catalogue.data?.joback_groups ?? {}))
const TYPED = [
  { key: 'molar_mass', title: 'Molar mass', kind: 'molar_mass' },
  { key: 'critical_temperature', title: 'Critical temperature', kind: 'temperature' },
  { key: 'critical_pressure', title: 'Critical pressure', kind: 'pressure' },
  { key: 'acentric_factor', title: 'Acentric factor', kind: 'number' },
  { key: 'formation_enthalpy', title: 'Enthalpy of formation, gas', kind: 'molar_enthalpy' },
  { key: 'entropy', title: 'Entropy, gas, 298.15 K', kind: 'molar_entropy' },
]
const OF_SOLIDS = [
  { key: 'molar_mass', title: 'Molar mass', kind: 'molar_mass' },
  { key: 'density', title: 'Density', kind: 'density' },
  { key: 'formation_enthalpy', title: 'Enthalpy of formation, crystal', kind: 'molar_enthalpy' },
  { key: 'entropy', title: 'Entropy, crystal, 298.15 K', kind: 'molar_entropy' },
]
const OF_DISSOLVED = [
  { key: 'molar_mass', title: 'Molar mass', kind: 'molar_mass' },
  { key: 'formation_enthalpy', title: 'Enthalpy of formation, dissolved', kind: 'molar_enthalpy' },
  { key: 'density', title: 'Density that it adds', kind: 'density' },
]
/** What is typed of each kind: into which part of the document, how many are needed, and the heat capacity. */
const FORMS = {
  typed: {
    part: 'own',
    fields: TYPED,
    needed: 4,
    heat: 'Heat capacity of the gas, J/(mol K): a + bT + cT² + …, T in K',
  },
  solid: {
    part: 'own_solid',
    fields: OF_SOLIDS,
    needed: 2,
    heat: 'Heat capacity of the crystal, J/(mol K): a + bT + cT² + …, T in K; the fifth is that of 1/T²',
  },
  dissolved: {
    part: 'own_dissolved',
    fields: OF_DISSOLVED,
    needed: 2,
    heat: 'Heat capacity that it adds, J/(mol K), if known',
  },
} as const
const isTyped = (way: typeof form.way): way is keyof typeof FORMS => way in FORMS
const typedForm = computed(() => (isTyped(form.way) ? FORMS[form.way] : null))
const needed = computed(() => typedForm.value?.fields.slice(0, typedForm.value.needed) ?? [])
const keep = (field: 'boiling' | 'density' | 'mass') => (q: Quantity | null) => {
  form[field] = q
  made.value = []
  return Promise.resolve('')
}
const keepTyped = (key: string) => (q: Quantity | null) => {
  form.typed[key] = q
  return Promise.resolve('')
}
const si = (q: Quantity, kind: string) => {
  const unit = catalogue.data?.kinds[kind]?.units.find((u) => u.name === (q.unit ?? ''))
  return unit ? q.value * unit.factor + unit.offset : q.value
}

async function estimate() {
  refusal.value = ''
  made.value = []
  if (isTyped(form.way)) return typed(FORMS[form.way])
  const curve = form.curve
    .split('\n')
    .map((line) =>
      line
        .trim()
        .split(/[\t;, ]+/)
        .map(Number),
    )
    .filter((p) => p.length >= 2 && p.every(Number.isFinite))
    .map(([share, value]) => ({ share: share!, temperature: { value: value!, unit: form.unit } }))
  const counts = Object.fromEntries(Object.entries(form.groups).filter(([, n]) => n > 0))
  const body = {
    way: form.way,
    id: form.id.trim() || (form.way === 'distillation' ? 'cut' : 'own component'),
    groups: counts,
    boiling_point: form.boiling,
    density: form.density,
    molar_mass: form.mass,
    curve: form.way === 'distillation' ? curve : [],
    astm: form.astm,
    cuts: form.cuts,
  }
  const reply = await api.POST('/api/components/estimate', { body })
  if (reply.data) made.value = reply.data.components
  else refusal.value = sentence(reply.error)
}
function typed(of: (typeof FORMS)[keyof typeof FORMS]) {
  const missing = needed.value.filter((f) => !form.typed[f.key])
  const cp = (form.heat.match(/[^; ]+/g) ?? []).map(Number)
  const names = missing.map((f) => f.title.toLowerCase())
  const open = of.part === 'own_dissolved' ? cp.length > 1 : !cp.length || cp.length > 5
  if (open || !cp.every(Number.isFinite))
    names.push(`${of.part === 'own_dissolved' ? 'one number' : 'one to five numbers'} of the heat capacity`)
  if (names.length) {
    refusal.value = `Still needed: ${names.join(', ')}.`
    return
  }
  const values = of.fields.filter((f) => form.typed[f.key]).map((f) => [f.key, si(form.typed[f.key]!, f.kind)])
  const heat = of.part === 'own_dissolved' ? (cp[0] ?? 0) : [...cp, 0, 0, 0, 0].slice(0, 5)
  const own = { ...Object.fromEntries(values), heat_capacity: heat, formula: form.formula.trim() }
  made.value = [{ id: form.id.trim() || 'own component', own, notes: [] }]
}
async function add() {
  const edits = made.value.map((c) => ({
    kind: 'add_component' as const,
    component: { id: c.id, [typedForm.value?.part ?? 'own']: c.own, stands_for: form.stands },
  }))
  refusal.value = await plant.edit({
    kind: 'batch',
    edits,
    label: `added ${made.value.map((c) => c.id).join(', ')}`.slice(0, 120),
  })
  if (!refusal.value) emit('done')
}
const unitOf = (kind: string) => unitText(catalogue.displayUnit(kind, plant.unitSet))
const shown = (value: unknown, kind: string) =>
  numberText(catalogue.shown(Number(value), kind, catalogue.displayUnit(kind, plant.unitSet)), 4)
</script>

<template>
  <form aria-label="Own component" @submit.prevent="estimate">
    <div class="mb-2 flex justify-between">
      <h2 class="text-[17px] font-semibold">Own component</h2>
      <button type="button" class="btn" @click="emit('done')">Close</button>
    </div>
    <label class="mb-1 block"
      >Name <input v-model="form.id" class="input" maxlength="60" aria-label="Name of the own component"
    /></label>
    <label class="mb-2 block">
      From
      <select v-model="form.way" class="input" aria-label="What is known" @change="made = []">
        <option v-for="w in ways" :key="w.key" :value="w.key">{{ w.title }}</option>
      </select>
    </label>
    <template v-if="form.way === 'boiling' || form.way === 'groups'">
      <QuantityField
        :label="form.way === 'groups' ? 'Boiling point, if known' : 'Normal boiling point'"
        kind="temperature"
        :given="form.boiling"
        :commit="keep('boiling')"
        data-field="boiling"
      />
    </template>
    <template v-if="form.way === 'boiling' || form.way === 'distillation'">
      <QuantityField
        label="Density at 15 °C"
        kind="density"
        :given="form.density"
        :commit="keep('density')"
        data-field="density"
      />
    </template>
    <QuantityField
      v-if="form.way === 'boiling'"
      label="Molar mass, if known"
      kind="molar_mass"
      :given="form.mass"
      :commit="keep('mass')"
    />
    <template v-if="form.way === 'distillation'">
      <label class="block">
        Per cent of the volume distilled, temperature
        <textarea v-model="form.curve" class="input" rows="7" aria-label="Distillation curve" />
      </label>
      <div class="my-1 grid grid-cols-2 gap-2">
        <label
          >Unit
          <select v-model="form.unit" class="input">
            <option>degC</option>
            <option>K</option>
            <option>degF</option>
          </select></label
        >
        <label>Cuts <input v-model.number="form.cuts" type="number" min="1" max="40" class="input" /></label>
      </div>
      <label><input v-model="form.astm" type="checkbox" /> an ASTM D86 curve, not true boiling points</label>
    </template>
    <div
      v-if="form.way === 'groups'"
      class="my-2 max-h-[240px] overflow-auto border border-rule"
      tabindex="0"
      aria-label="Groups"
    >
      <label
        v-for="[number, name] in groups"
        :key="number"
        class="flex items-center justify-between border-b border-rule2 px-2"
      >
        {{ name }}
        <input
          v-model.number="form.groups[Number(number)]"
          type="number"
          min="0"
          class="input w-[62px]! py-[1px]! text-right"
        />
      </label>
    </div>
    <template v-if="typedForm">
      <p v-if="form.way === 'dissolved'" class="mb-1 text-[12px] text-ink2">
        A salt as a whole, say: it neither boils nor freezes, and crystals of it form by a reaction.
      </p>
      <QuantityField
        v-for="f in typedForm.fields"
        :key="f.key"
        :label="f.title"
        :kind="f.kind"
        :given="form.typed[f.key] ?? null"
        :commit="keepTyped(f.key)"
        :data-field="f.key"
      />
      <label class="mt-1 block">
        {{ typedForm.heat }}
        <input
          v-model="form.heat"
          class="input"
          :placeholder="form.way === 'dissolved' ? '-290' : '30 0.15 -5e-5'"
          aria-label="Heat capacity"
        />
      </label>
      <label class="mt-1 block">
        Formula, by which reactions are balanced
        <input v-model="form.formula" class="input" maxlength="40" placeholder="MgCl2" aria-label="Formula" />
      </label>
    </template>
    <label class="my-2 block"
      >Represents, if it is a surrogate <input v-model="form.stands" class="input" maxlength="120"
    /></label>
    <button class="btn btn-main">{{ typedForm ? 'Check' : 'Estimate' }}</button>
    <p v-if="refusal" role="alert" class="mt-2 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
    <div v-if="made.length" class="mt-3" data-test="estimated">
      <table class="w-full border-collapse text-right">
        <thead>
          <tr class="head">
            <th scope="col" class="text-left">Component</th>
            <th scope="col" v-if="form.way === 'solid'">Density, {{ unitOf('density') }}</th>
            <template v-else-if="form.way !== 'dissolved'">
              <th scope="col">Tc, {{ unitOf('temperature') }}</th>
              <th scope="col">Pc, {{ unitOf('pressure') }}</th>
              <th scope="col">ω</th>
            </template>
            <th scope="col">M, {{ unitOf('molar_mass') }}</th>
            <th scope="col" v-if="made[0]?.mole_share">mole %</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in made" :key="c.id" class="border-t border-rule2 text-[12px]">
            <td class="text-left">{{ c.id }}</td>
            <td v-if="form.way === 'solid'">{{ shown(c.own.density, 'density') }}</td>
            <template v-else-if="form.way !== 'dissolved'">
              <td>{{ shown(c.own.critical_temperature, 'temperature') }}</td>
              <td>{{ shown(c.own.critical_pressure, 'pressure') }}</td>
              <td>{{ numberText(Number(c.own.acentric_factor), 4) }}</td>
            </template>
            <td>{{ shown(c.own.molar_mass, 'molar_mass') }}</td>
            <td v-if="c.mole_share">{{ (100 * c.mole_share).toFixed(2) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-for="n in made[0]?.notes" :key="n" class="mt-1 border-l-2 border-rule px-2 text-[12px]">{{ n }}</p>
      <button type="button" class="btn mt-2" @click="add">
        Add {{ made.length > 1 ? `${made.length} components` : 'it' }}
      </button>
    </div>
  </form>
</template>
