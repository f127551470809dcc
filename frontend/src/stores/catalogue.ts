import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, type Catalogue, type UnitType } from '../api/client'
import { numberText, unitText } from '../quantities/format'

export type StreamKind = UnitType['ports'][number]['kind']

/** What the core can do, fetched once: unit types, kinds of quantity, unit sets, property models. */
export const useCatalogue = defineStore('catalogue', () => {
  const data = ref<Catalogue | null>(null)
  /** Sets of display units of the open plant's own, by name. */
  const own = ref<Record<string, Record<string, string>>>({})
  const types = computed(() => new Map((data.value?.unit_types ?? []).map((t) => [t.type, t])))

  async function load() {
    if (data.value) return
    const answer = await api.GET('/api/catalogue')
    if (answer.data) data.value = answer.data
  }
  function type(name: string): UnitType | undefined {
    return types.value.get(name)
  }
  /** The unit in which a set shows a kind. */
  function displayUnit(kind: string, set: string): string {
    const units = data.value?.unit_sets[set] ?? own.value[set]
    return units?.[kind] ?? data.value?.unit_sets.Metric?.[kind] ?? ''
  }
  /** An SI value in a display unit. */
  function shown(si: number, kind: string, unit: string): number {
    const found = data.value?.kinds[kind]?.units.find((u) => u.name === unit)
    return found ? (si - found.offset) / found.factor : si
  }
  /** An SI value with its unit as a set shows it; without a kind the number alone. */
  function told(si: number, kind: string | null, set: string): string {
    if (!kind) return numberText(si)
    const unit = displayUnit(kind, set)
    return `${numberText(shown(si, kind, unit))} ${unitText(unit)}`.trim()
  }
  return { data, own, load, type, displayUnit, shown, told }
})
