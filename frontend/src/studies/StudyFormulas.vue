<script setup lang="ts">
import { usePlant } from '../stores/plant'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { withPart, without, type Change, type Known, type Study } from './editing'

/** Formulas over results under names: what is looked at, objectives or limits. The slot holds what belongs to one of them beside. */
const props = defineProps<{
  study: Study
  part: 'outputs' | 'objectives' | 'limits'
  title: string
  add: string
  most: number
  known: Map<string, Known>
  change: Change
}>()
const plant = usePlant()
const catalogue = useCatalogue()
const formulas = () => props.study[props.part] ?? []
function now(formula: string): string {
  const found = props.known.get(formula)
  if (!found) return ''
  if (found.value == null) return found.problem ?? ''
  const unit = found.kind ? catalogue.displayUnit(found.kind, plant.unitSet) : (found.si ?? '')
  const value = found.kind ? catalogue.shown(found.value, found.kind, unit) : found.value
  return `now ${numberText(value, 5)} ${unitText(unit)}`.trim()
}
/** What is typed stays until it is taken. */
async function take(event: Event) {
  const field = event.target as HTMLInputElement
  const formula = field.value.trim()
  if (!formula) return
  const names = new Set(formulas().map((one) => one.name))
  let name = formula.slice(0, 60)
  for (let k = 2; names.has(name); k++) name = `${formula.slice(0, 55)} (${k})`
  const refused = await props.change((study) => ({
    [props.part]: [...(study[props.part] ?? []), { name, formula }],
  }))
  if (!refused && field.value.trim() === formula) field.value = ''
}
function named(at: number, event: Event) {
  const name = (event.target as HTMLInputElement).value.trim()
  if (name) void props.change((study) => ({ [props.part]: withPart(study[props.part] as object[], at, { name }) }))
}
</script>

<template>
  <section :aria-label="title" class="mb-4">
    <h2 class="head mb-1">{{ title }}</h2>
    <table class="mb-2 w-full" :data-test="`study-${part}`">
      <tbody>
        <tr v-for="(one, k) in formulas()" :key="one.name" class="border-b border-rule2 align-baseline">
          <td class="w-[240px] py-[4px] pr-2">
            <input
              class="input"
              :name="`${part}-${k}`"
              :aria-label="`Name of ${one.formula}`"
              maxlength="60"
              :value="one.name"
              :disabled="!plant.editable"
              @change="named(k, $event)"
            />
          </td>
          <td class="pr-2">
            <span class="font-mono text-[12px]">{{ one.formula }}</span>
            <span
              class="block text-[12px]"
              :class="known.get(one.formula)?.value == null ? 'text-warn' : 'text-ink2'"
              >{{ now(one.formula) }}</span
            >
          </td>
          <slot :at="k" :called="one.name" :formula="one.formula" />
          <td class="w-[80px] text-right">
            <button
              v-if="plant.editable"
              type="button"
              class="link"
              @click="change((s) => ({ [part]: without(s[part] as object[], k) }))"
            >
              Leave out
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <input
      v-if="plant.editable && formulas().length < most"
      class="input w-[420px]"
      :name="`add-${part}`"
      list="study-values"
      maxlength="300"
      :aria-label="add"
      :placeholder="`${add}…`"
      @change="take"
    />
  </section>
</template>
