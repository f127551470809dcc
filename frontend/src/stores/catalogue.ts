import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'
import { api, type Catalogue, type UnitType } from '../api/client'
import type { CellToRead, Understood } from '../data/understand'
import { numberText, unitText } from '../quantities/format'

export type StreamKind = UnitType['ports'][number]['kind']

/** Below these (SI) a difference is the rounding of large numbers and is shown as none. */
const NOISE: Record<string, number> = { temperature_difference: 1e-7, pressure_difference: 1e-4, power: 1e-7 }

/** What the core can do, fetched once: unit types, kinds of quantity, unit sets, property models. */
export const useCatalogue = defineStore('catalogue', () => {
  const data = shallowRef<Catalogue | null>(null)
  /** Sets of display units of the open plant's own, by name. */
  const own = shallowRef<Record<string, Record<string, string>>>({})
  const types = computed(() => new Map((data.value?.unit_types ?? []).map((t) => [t.type, t])))

  const units = computed(() => {
    const kinds = Object.entries(data.value?.kinds ?? {})
    return new Map(kinds.map(([kind, { units }]) => [kind, new Map(units.map((u) => [u.name, u]))]))
  })

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
    const found = units.value.get(kind)?.get(unit)
    const value = Math.abs(si) < (NOISE[kind] ?? 0) ? 0 : si
    return found ? (value - found.offset) / found.factor : value
  }
  /** An SI value with its unit as a set shows it; without a kind the number alone. */
  function told(si: number, kind: string | null, set: string): string {
    if (!kind) return numberText(si)
    const unit = displayUnit(kind, set)
    return `${numberText(shown(si, kind, unit))} ${unitText(unit)}`.trim()
  }
  /** Numbers of cells in the units of their columns, null for blank, or the sentence why one is none. */
  function inUnits(found: Understood[], cells: CellToRead[]): (number | null | string)[] {
    return found.map((v, k) => {
      if (v === null || 'problem' in v) return v && v.problem
      const { kind, unit } = cells[k]!
      const from = units.value.get(kind)?.get(v.unit ?? '')
      return from && v.unit !== unit ? shown(v.value * from.factor + from.offset, kind, unit) : v.value
    })
  }
  return { data, own, load, type, displayUnit, shown, told, inUnits }
})
