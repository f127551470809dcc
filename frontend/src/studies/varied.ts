import { computed, shallowRef, watch } from 'vue'
import { api, type Quantity, type Schemas } from '../api/client'
import { typedText, unitText } from '../quantities/format'
import { usePlant } from '../stores/plant'
import type { Input, Item } from './editing'

/** A value that can be varied: as an item of a study, under what it stands, its title and kind, and what it is now. */
export interface Variable {
  item: Input
  heading: string
  title: string
  kind: string
  typed: Quantity
}

/** By what an item is known, whatever its bounds are. */
export function keyOf(item: Item): string {
  if ('fit' in item) return `fit ${item.fit}`
  if ('of' in item) return [item.of, item.first, item.second, item.name, item.model].join(' | ')
  return `${item.unit} ${item.field}`
}

/** What of the plant can be varied: values that are given, and numbers of the chemistry. */
export function useVariables() {
  const plant = usePlant()
  const givens = shallowRef<Variable[]>([])
  const properties = shallowRef<Variable[]>([])
  const byKey = computed(() => new Map([...givens.value, ...properties.value].map((v) => [keyOf(v.item), v])))
  const ofGiven = (g: Schemas['GivenOut']): Variable => ({
    item: { unit: g.unit, field: g.field } as Input,
    heading: g.unit,
    title: g.title,
    kind: g.kind,
    typed: g.typed,
  })
  const ofParameter = ({ heading, title, kind, typed, ...place }: Schemas['ParameterOut']): Variable => ({
    item: place as Input,
    heading,
    title,
    kind,
    typed,
  })
  const path = () => ({ params: { path: { variant_id: plant.variant!.id } } })
  watch(
    () => [plant.variant?.id, plant.revision],
    async () => {
      if (!plant.variant) return
      givens.value = ((await api.GET('/api/variants/{variant_id}/givens', path())).data ?? []).map(ofGiven)
    },
    { immediate: true },
  )
  // There are thousands of them where there are many components: not with every edit of something else.
  watch(
    () => [plant.variant?.id, plant.document?.chemistry],
    async () => {
      if (!plant.variant) return
      properties.value = ((await api.GET('/api/variants/{variant_id}/parameters', path())).data ?? []).map(ofParameter)
    },
    { immediate: true },
  )
  return { givens, properties, of: (item: Item) => byKey.value.get(keyOf(item)) }
}

/** A value as it is told in a line. */
export const told = (v: Variable) => `${typedText(v.typed.value)} ${unitText(v.typed.unit ?? '')}`.trim()
