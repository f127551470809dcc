import { computed } from 'vue'
import { usePlant } from '../stores/plant'

/** Results that are offered where a formula is typed. */
export function useOffered() {
  const plant = usePlant()
  return computed(() => [
    ...Object.keys(plant.result?.streams ?? {}).flatMap((tag) =>
      ['temperature', 'pressure', 'mass_flow', 'vapour_fraction'].map((what) => `${tag}.${what}`),
    ),
    ...Object.entries(plant.result?.units ?? {}).flatMap(([tag, unit]) =>
      (unit.values ?? []).filter((v) => !v.component).map((v) => `${tag}.${v.key}`),
    ),
  ])
}
