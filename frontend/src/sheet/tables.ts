import { createSharedComposable } from '@vueuse/core'
import { computed } from 'vue'
import type { SheetTable, StreamResult } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import type { Drawn } from './canvas/drawing'

/** A row is a value of streams, or one of a component as "mole_fraction[water]". */
export function partsOf(row: string): { what: string; component: string } {
  const match = /^(\w+)\[(.+)\]$/.exec(row)
  return match ? { what: match[1]!, component: match[2]! } : { what: row, component: '' }
}
const OF_COMPONENT: Record<string, [keyof StreamResult, string]> = {
  mole_fraction: ['mole_fractions', 'number'],
  mass_fraction: ['mass_fractions', 'number'],
  component_flow: ['mole_flows', 'mole_flow'],
}

/** The tables of results on the sheet, as texts. */
export const useTables = createSharedComposable(() => {
  const plant = usePlant()
  const catalogue = useCatalogue()
  function value(tag: string, what: string, component: string): number | null {
    const stream = plant.result?.streams[tag]
    if (!stream) return what === 'enthalpy_flow' ? (plant.result?.energies?.[tag]?.power ?? null) : null
    if (!component) return (stream[what as keyof StreamResult] as number | null) ?? null
    const of = OF_COMPONENT[what]
    return of ? ((stream[of[0]] as Record<string, number>)[component] ?? null) : null
  }
  function drawn(table: SheetTable): Drawn {
    const rows = table.rows.map((row) => {
      const { what, component } = partsOf(row)
      const kind = OF_COMPONENT[what]?.[1] ?? catalogue.data?.stream_values[what] ?? 'number'
      const unit = kind === 'number' ? '' : catalogue.displayUnit(kind, plant.unitSet)
      const cells = table.streams.map((tag) => {
        const found = value(tag, what, component)
        return found === null ? '–' : numberText(kind === 'number' ? found : catalogue.shown(found, kind, unit), 5)
      })
      const title = what.replace(/_/g, ' ')
      return { title: component ? `${component}, ${title}` : title, unit: unitText(unit), cells }
    })
    return { head: [...table.streams], rows }
  }
  return { all: computed(() => new Map((plant.document?.tables ?? []).map((t) => [t.name, drawn(t as SheetTable)]))) }
})
