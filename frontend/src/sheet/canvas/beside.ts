import { createSharedComposable } from '@vueuse/core'
import { computed } from 'vue'
import type { StreamResult } from '../../api/client'
import { numberText, unitText } from '../../quantities/format'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { shownKeys } from './drawing'

/** The calculated values that stand beside units and streams, as lines of text by tag. */
export const useBeside = createSharedComposable(() => {
  const plant = usePlant()
  const catalogue = useCatalogue()
  function line(value: number | null | undefined, kind: string): string {
    if (value == null) return ''
    const unit = kind === 'number' ? '' : catalogue.displayUnit(kind, plant.unitSet)
    return `${numberText(kind === 'number' ? value : catalogue.shown(value, kind, unit), 4)} ${unitText(unit)}`.trim()
  }
  const texts = computed(() => {
    const found = new Map<string, string[]>()
    const shown = plant.document?.shown
    if (!shown || !Object.keys(shown).length) return found
    const kinds = catalogue.data?.stream_values ?? {}
    for (const [tag, stream] of Object.entries(plant.result?.streams ?? {})) {
      const keys = shownKeys(shown, tag, 'stream')
      const lines = keys.map((key) => line(stream[key as keyof StreamResult] as number | null, kinds[key] ?? 'number'))
      if (lines.some(Boolean)) found.set(tag, lines.filter(Boolean))
    }
    for (const [tag, energy] of Object.entries(plant.result?.energies ?? {}))
      if (shown.stream?.length) found.set(tag, [line(energy.power, 'power')])
    for (const unit of plant.document?.units ?? []) {
      const keys = shownKeys(shown, unit.tag, unit.type)
      const values = new Map((plant.result?.units[unit.tag]?.values ?? []).map((v) => [v.key, v]))
      const lines = keys.map((key) => (values.has(key) ? line(values.get(key)!.value, values.get(key)!.kind) : ''))
      if (lines.some(Boolean)) found.set(unit.tag, lines.filter(Boolean))
    }
    return found
  })
  return { texts }
})
