import { computed } from 'vue'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import type { Shower } from './panels'

/** Shows SI numbers in the units of the plant's set. */
export function useShower() {
  const plant = usePlant()
  const catalogue = useCatalogue()
  return computed<Shower>(() => {
    const set = plant.unitSet
    return {
      displayUnit: (kind) => catalogue.displayUnit(kind, set),
      shown: (si, kind) => catalogue.shown(si, kind, catalogue.displayUnit(kind, set)),
      siUnit: (kind) => catalogue.data?.kinds[kind]?.units.find((u) => u.factor === 1 && !u.offset)?.name ?? '',
    }
  })
}
