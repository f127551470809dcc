import { createSharedComposable, useLocalStorage } from '@vueuse/core'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'

/** Units of single calculated numbers, as this person wants them on this computer: by plant, tag and value. */
export const useNumberUnits = createSharedComposable(() => {
  const plant = usePlant()
  const catalogue = useCatalogue()
  const chosen = useLocalStorage<Record<string, string>>('wattaxis-number-units', {})
  const place = (what: string) => `${plant.variant?.id}|${what}`
  /** The unit in which a number is shown: its own, or that of the unit set. */
  function of(what: string, kind: string): string {
    const own = chosen.value[place(what)]
    const known = catalogue.data?.kinds[kind]?.units.some((u) => u.name === own)
    return known ? own! : catalogue.displayUnit(kind, plant.unitSet)
  }
  function set(what: string, kind: string, unit: string) {
    const rest = { ...chosen.value }
    delete rest[place(what)]
    const plain = unit === catalogue.displayUnit(kind, plant.unitSet)
    chosen.value = plain ? rest : { ...rest, [place(what)]: unit }
  }
  return { of, set }
})
