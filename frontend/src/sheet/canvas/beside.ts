import { createSharedComposable } from '@vueuse/core'
import { computed } from 'vue'
import type { StreamResult } from '../../api/client'
import { numberText, unitText } from '../../quantities/format'
import { useCatalogue } from '../../stores/catalogue'
import { alike } from '../../stores/alike'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'
import { shownKeys } from './drawing'

export type Texts = Record<string, string[]>

/** What units and streams show of the results, gathered once for all of them. */
export const useBeside = createSharedComposable(() => {
  const plant = usePlant()
  const catalogue = useCatalogue()
  const sheet = useSheet()
  function line(value: number | null | undefined, kind: string): string {
    if (value == null) return ''
    const unit = kind === 'number' ? '' : catalogue.displayUnit(kind, plant.unitSet)
    return `${numberText(kind === 'number' ? value : catalogue.shown(value, kind, unit), 4)} ${unitText(unit)}`.trim()
  }
  /** The calculated values that stand beside units and streams, as lines of text by tag. */
  const texts = computed<Texts>((before) => alike(before, Object.fromEntries(written())))
  function written(): Map<string, string[]> {
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
  }
  /** How many findings beyond notes a unit has, by tag. */
  const told = computed(() => {
    const found = new Map<string, number>()
    for (const { place, severity } of plant.result?.findings ?? [])
      if (place && severity !== 'note') found.set(place, (found.get(place) ?? 0) + 1)
    return found
  })
  /** The largest of what the streams are drawn as wide as. */
  const largest = computed(() => {
    const what = sheet.overlay
    if (what === 'none') return 1
    return Math.max(...Object.values(plant.result?.streams ?? {}).map((s) => Math.abs(s[what] ?? 0)), 1e-300)
  })
  /** As wide as its flow is a stream drawn, where that is asked for. */
  function widthOf(tag: string): number {
    const what = sheet.overlay
    if (what === 'none') return 1.4
    return 1 + (11 * Math.abs(plant.result?.streams[tag]?.[what] ?? 0)) / largest.value
  }
  return { texts, told, widthOf }
})
