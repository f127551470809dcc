<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import type { Choice, FieldInfo, Quantity, ResultValue, Unit } from '../../api/client'
import QuantityField from '../../quantities/QuantityField.vue'
import NumberUnit from '../../quantities/NumberUnit.vue'
import { numberText, typedText, unitText } from '../../quantities/format'
import { useNumberUnits } from '../../quantities/numberUnits'
import { inFormula, useAims } from '../../stores/aims'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useSheetActions } from '../actions'
import FeedComposition from './FeedComposition.vue'
import FindingCard from './FindingCard.vue'
import OptionField from './OptionField.vue'
import PerComponent from './PerComponent.vue'
import TableField from './TableField.vue'
import TagTitle from './TagTitle.vue'

const ProfilePreview = defineAsyncComponent(() => import('../../unit/ProfilePreview.vue'))
/** On the page of the unit its profiles stand beside. */
const props = defineProps<{ unit: Unit; page?: boolean }>()
const plant = usePlant()
const catalogue = useCatalogue()
const actions = useSheetActions()
const aims = useAims()
const numberUnits = useNumberUnits()
const released = ref('')
const NUMBERS = ['none', 'one', 'two', 'three', 'four', 'five', 'six']
const type = computed(() => plant.typeOf(props.unit))
const fields = computed(() => new Map((type.value?.fields ?? []).map((f) => [f.key, f])))
const result = computed(() => plant.result?.units[props.unit.tag])
const values = computed(
  () => new Map((result.value?.values ?? []).filter((v) => !v.component).map((v) => [v.key, v.value])),
)
const asks = computed(() => (plant.current ? (plant.result?.asks ?? []).filter((a) => a.place === props.unit.tag) : []))
const findings = computed(() => (plant.result?.findings ?? []).filter((f) => f.place === props.unit.tag))
/** What stops the unit comes first; its page shows that in the place of its profiles. */
const faults = computed(() => (props.page ? [] : findings.value.filter((f) => f.severity === 'fault')))
const doubts = computed(() => findings.value.filter((f) => f.severity !== 'fault'))
const assumptions = computed(() => (plant.result?.assumptions ?? []).filter((a) => a.place === props.unit.tag))
const grouped = computed(() => new Set((type.value?.choices ?? []).flatMap((c) => c.fields)))
const single = computed(() =>
  (type.value?.fields ?? []).filter(
    (f) => !grouped.value.has(f.key) && !['composition', 'table'].includes(f.kind) && !f.each && shares(f),
  ),
)
const tables = computed(() =>
  (type.value?.fields ?? []).filter((f) => f.kind === 'table' && !grouped.value.has(f.key) && shares(f)),
)
const each = computed(() => (type.value?.fields ?? []).filter((f) => f.each))
const hasComposition = computed(() => (type.value?.fields ?? []).some((f) => f.kind === 'composition'))
/** A value whose field has no meaning with what is chosen is told like any other. */
const only = computed(() =>
  (result.value?.values ?? []).filter((v) => {
    const field = fields.value.get(v.key)
    return !field || (!grouped.value.has(v.key) && !shares(field))
  }),
)
/** A calculated value as a formula and a reader name it, with its component where it is of one. */
const nameOf = (v: ResultValue) => (v.component ? `${v.key}[${v.component}]` : v.key)
const titleOf = (v: ResultValue) => (v.component ? `${v.title}, ${v.component}` : v.title)
const links = computed(() =>
  (type.value?.ports ?? []).flatMap((port) => {
    const joined = (plant.document?.streams ?? []).filter((s) =>
      port.direction === 'out'
        ? s.source.unit === props.unit.tag && s.source.port === port.key
        : s.target.unit === props.unit.tag && s.target.port === port.key,
    )
    return joined.length ? joined.map((s) => ({ port, stream: s.tag as string | null })) : [{ port, stream: null }]
  }),
)
/** Only the branches that are connected ask for their share, and only what has its component. */
function shares(field: FieldInfo): boolean {
  if (field.beside && !given(field.key)) {
    const chosen = props.unit.spec[field.beside] ?? (field.or_beside && props.unit.spec[field.or_beside])
    if (!chosen || (field.among?.length && !field.among.includes(String(chosen)))) return false
  }
  if (field.needs && !given(field.key))
    return !!plant.document?.chemistry.components?.some((c) => c.cas === field.needs)
  const port = type.value?.ports.find((p) => p.key === field.port)
  if (!port || port.needed) return true
  return !!plant.document?.streams?.some((s) => s.source.unit === props.unit.tag && s.source.port === port.key)
}
function given(key: string): Quantity | null {
  return (props.unit.spec[key] as Quantity | undefined) ?? null
}
/** Whether one quantity is given for a field. */
function quantity(field: FieldInfo): boolean {
  return !named(field) && !field.each && !['composition', 'table'].includes(field.kind)
}
/** Whether one of a few names is chosen for a field. */
function named(field: FieldInfo): boolean {
  return ['option', 'component', 'reactions'].includes(field.kind)
}
function calculated(key: string): number | null {
  if (values.value.has(key)) return values.value.get(key)!
  if (key !== 'flow' && key !== 'volume_flow') return null
  const outlet = plant.document?.streams?.find((s) => s.source.unit === props.unit.tag)
  const state = outlet && result.value?.mark === 'current' ? plant.result?.streams[outlet.tag] : undefined
  if (!state || props.unit.type !== 'feed') return null
  if (key === 'volume_flow') return state.volume_flow ?? null
  return /^(kg|t|lb)\//.test(catalogue.displayUnit('flow', plant.unitSet)) ? state.mass_flow : state.mole_flow
}
function assumed(key: string): string | null {
  const found = assumptions.value.find((a) => a.field === key)
  if (!found || given(key)) return null
  return typeof found.value === 'string'
    ? `${found.value} assumed`
    : `${typedText(found.value)} ${unitText(found.unit)} assumed`
}

/** Calculated streams whose state a feed may start from. */
const copiable = computed(() => {
  const own = new Set(plant.document?.streams?.filter((s) => s.source.unit === props.unit.tag).map((s) => s.tag))
  return Object.keys(plant.result?.streams ?? {}).filter((tag) => !own.has(tag))
})
function copyFrom(event: Event) {
  const chosen = event.target as HTMLSelectElement
  const stream = chosen.value
  chosen.value = ''
  if (stream) void actions.copyState(props.unit.tag, stream)
}
/** What was released may stand beside the outlet pressure: then the inlet's pressure is settled upstream. */
const kept = ref<{ key: string; was: Quantity } | null>(null)
function keepBoth() {
  const back = kept.value
  released.value = ''
  kept.value = null
  if (back) void plant.edit({ kind: 'set_values', unit: props.unit.tag, values: { [back.key]: back.was } })
}
/** A calculated value becomes a given one, as it is shown, and releases another of its choice. */
function use(key: string, choice: Choice) {
  const field = fields.value.get(key)!
  const unit = catalogue.displayUnit(field.kind, plant.unitSet)
  const value = Number(catalogue.shown(values.value.get(key)!, field.kind, unit).toPrecision(12))
  void commit(field, { value, unit }, choice)
}
/** Give a value. Where a choice is full already, the one it replaces is released in the same edit. */
async function commit(field: FieldInfo, quantity: Quantity | null, choice?: Choice): Promise<string> {
  const changes: Record<string, Quantity | null> = { [field.key]: quantity }
  released.value = ''
  kept.value = null
  if (quantity && choice) {
    const others = choice.fields.filter((k) => k !== field.key && given(k))
    const extra = others.length + 1 - choice.count
    const order = [...others].reverse().sort((a, b) => Number(a === 'pressure') - Number(b === 'pressure'))
    for (const key of order.slice(0, Math.max(0, extra))) {
      changes[key] = null
      released.value = `${field.title} replaces ${fields.value.get(key)?.title.toLowerCase()}.`
      const pair = [field.key, key]
      if (choice.both.some((together) => together.every((k) => pair.includes(k))))
        kept.value = { key, was: given(key)! }
    }
  }
  return plant.edit({ kind: 'set_values', unit: props.unit.tag, values: changes })
}
</script>

<template>
  <div>
    <div v-if="!page" class="flex items-start gap-3 border-b border-rule2 px-4 pt-2 pb-2">
      <TagTitle :tag="unit.tag" />
      <span class="pt-[5px] text-ink2">{{ type?.title }}</span>
      <button v-if="plant.editable" class="btn ml-auto" title="Delete" @click="actions.remove(unit.tag)">Remove</button>
    </div>
    <div class="flex justify-between px-4 pt-2">
      <h3 class="head">Given</h3>
      <span class="head font-medium!">{{ asks.length ? 'incomplete' : 'nothing missing' }}</span>
    </div>
    <FindingCard v-for="(f, k) in faults" :key="`fault ${k}`" :finding="f" class="mx-4 my-[6px]" />
    <ul v-if="asks.length" class="mx-4 my-1 border-l-3 border-ink3 bg-desk px-3 py-1 text-[12.5px]">
      <li v-for="a in asks" :key="a.text" class="py-[2px]">{{ a.text }}</li>
    </ul>
    <p v-if="released" role="status" class="px-4 text-[12px] text-ink2">
      {{ released }} Undo restores it.
      <template v-if="kept"
        ><button class="link" @click="keepBoth">Keep both</button>, and the inlet pressure is settled
        upstream.</template
      >
    </p>
    <template v-if="type">
      <fieldset
        v-for="choice in type.choices"
        :key="choice.title"
        class="mx-4"
        :class="choice.fields.length > 1 ? 'my-[6px] border border-rule2 border-l-2 border-l-ink3 px-2 pt-1 pb-1' : ''"
      >
        <legend class="sr-only">{{ choice.title }}</legend>
        <p v-if="choice.fields.length > 1" class="text-[12px] text-ink2">
          {{ choice.title }}{{ `: ${NUMBERS[choice.count] ?? choice.count} of` }}
        </p>
        <OptionField
          v-for="key in choice.fields.filter((k) => named(fields.get(k)!))"
          :key="key"
          :field="fields.get(key)!"
          :unit="unit"
          :choice="choice"
          :assumed="assumed(key)"
        />
        <QuantityField
          v-for="key in choice.fields.filter((k) => quantity(fields.get(k)!))"
          :key="key"
          :label="fields.get(key)!.title"
          :kind="fields.get(key)!.kind"
          :help="fields.get(key)!.help"
          :disabled="!plant.editable"
          :given="given(key)"
          :calculated="calculated(key)"
          :assumed="assumed(key)"
          :aim="aims.freedBy(unit.tag, key)"
          :stale="!plant.current"
          :commit="(q) => commit(fields.get(key)!, q, choice)"
          :data-field="key"
        >
          <template v-if="plant.editable && plant.current && values.has(key) && !given(key)">
            <button
              v-if="choice.fields.length > choice.count"
              class="link text-[12px]"
              :title="`Use the calculated value as a specification in place of another`"
              :aria-label="`Use ${fields.get(key)!.title.toLowerCase()}`"
              @click="use(key, choice)"
            >
              Use
            </button>
            <button
              class="link text-[12px]"
              :aria-label="`Aim at the ${fields.get(key)!.title.toLowerCase()} of ${unit.tag}`"
              @click="aims.begin(`${inFormula(unit.tag)}.${key}`)"
            >
              Aim
            </button>
          </template>
        </QuantityField>
        <TableField
          v-for="key in choice.fields.filter((k) => fields.get(k)!.kind === 'table')"
          :key="unit.tag + key"
          :field="fields.get(key)!"
          :unit="unit"
          :choice="choice"
        />
      </fieldset>
      <div class="px-4">
        <OptionField
          v-for="f in single.filter((s) => named(s))"
          :key="f.key"
          :field="f"
          :unit="unit"
          :assumed="assumed(f.key)"
        />
        <QuantityField
          v-for="f in single.filter((s) => !named(s))"
          :key="f.key"
          :label="f.title"
          :kind="f.kind"
          :help="f.help"
          :given="given(f.key)"
          :calculated="calculated(f.key)"
          :aim="aims.freedBy(unit.tag, f.key)"
          :disabled="!plant.editable"
          :stale="!plant.current"
          :commit="(q) => commit(f, q)"
          :data-field="f.key"
        />
        <p v-if="!type.fields.length" class="py-1 text-ink2">
          No inputs are needed: it uses its inlet streams as they are.
        </p>
      </div>
      <FeedComposition v-if="hasComposition" :unit="unit" :flows="unit.type === 'feed'" />
      <label
        v-if="unit.type === 'feed' && plant.editable && copiable.length"
        class="grid grid-cols-[1fr_170px] items-center gap-2 px-4 pt-2"
      >
        <span class="text-ink2">Copy the state of</span>
        <select class="input py-[3px]!" name="copy-state" value="" @change="copyFrom($event)">
          <option value="">a stream, once</option>
          <option v-for="tag in copiable" :key="tag" :value="tag">{{ tag }}</option>
        </select>
      </label>
      <div v-if="tables.length" class="px-4">
        <TableField v-for="f in tables" :key="unit.tag + f.key" :field="f" :unit="unit" />
      </div>
      <PerComponent v-for="f in each" :key="f.key" :unit="unit" :field="f" />
    </template>
    <template v-if="only.length">
      <h3 class="head px-4 pt-2">Results</h3>
      <div class="px-4">
        <div v-for="v in only" :key="nameOf(v)" class="group flex gap-2 py-[2px]">
          <span class="flex-1">{{ titleOf(v) }}</span>
          <span :class="plant.current ? '' : 'text-ink3 italic'">{{
            numberText(catalogue.shown(v.value, v.kind, numberUnits.of(`${unit.tag}.${nameOf(v)}`, v.kind)))
          }}</span>
          <NumberUnit :kind="v.kind" :what="`${unit.tag}.${nameOf(v)}`" :title="titleOf(v).toLowerCase()" />
          <button
            v-if="plant.editable"
            class="link w-[30px] text-[12px] opacity-0 group-hover:opacity-100 focus:opacity-100"
            :aria-label="`Aim at the ${titleOf(v).toLowerCase()} of ${unit.tag}`"
            @click="aims.begin(`${inFormula(unit.tag)}.${nameOf(v)}`)"
          >
            Aim
          </button>
        </div>
      </div>
    </template>
    <ProfilePreview v-if="result?.profiles?.length && !page" :tag="unit.tag" />
    <label class="grid grid-cols-[1fr_170px] items-center gap-2 px-4 pt-2">
      <span class="text-ink2">Property model</span>
      <select
        class="input py-[3px]!"
        name="unit-model"
        :value="unit.model ?? ''"
        :disabled="!plant.editable"
        @change="
          plant.edit({
            kind: 'set_unit_model',
            tag: unit.tag,
            model: ($event.target as HTMLSelectElement).value || null,
          })
        "
      >
        <option value="">as the plant</option>
        <option v-for="m in catalogue.data?.models ?? []" :key="m.key" :value="m.key">{{ m.title }}</option>
      </select>
    </label>
    <h3 class="head px-4 pt-3">Connections</h3>
    <ul class="px-4 pb-1">
      <li v-for="link in links" :key="link.port.key + link.stream" class="flex justify-between py-[2px]">
        <span>{{ link.port.title }}</span>
        <button v-if="link.stream" class="link" @click="plant.selected = link.stream">{{ link.stream }}</button>
        <span v-else class="text-ink2">open</span>
      </li>
    </ul>
    <FindingCard v-for="(f, k) in doubts" :key="k" :finding="f" class="mx-4 my-[6px]" />
    <details v-if="result?.basis" class="mx-4 my-2 text-[12px]">
      <summary class="head cursor-pointer">Basis</summary>
      <p class="mt-1 text-ink2">{{ result.basis }}</p>
    </details>
  </div>
</template>
