import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, sentence, type Schemas } from '../api/client'
import { typedText, unitText } from '../quantities/format'
import { usePlant } from './plant'
import { useQuestion } from './question'

export type Condition = Schemas['Condition']
type Case = Schemas['CaseOut']

/** Conditions under which reactors are looked at beside what they are, by plant; they are a look and no part of the document. */
export const useConditions = defineStore('conditions', () => {
  const byPlant = ref(new Map<number, Condition[]>())
  const of = (plant: number) => byPlant.value.get(plant) ?? []
  const set = (plant: number, conditions: Condition[]) => void byPlant.value.set(plant, conditions)
  return { of, set }
})

export const isBlank = (c: Condition) => !c.temperature && !c.pressure && !c.flow
/** As it stands over a column. */
export const conditionText = (c: Condition) =>
  [c.temperature, c.pressure, c.flow && { ...c.flow, of: ' of the flow' }]
    .filter((q) => !!q)
    .map((q) => `${typedText(q.value)} ${unitText(q.unit ?? '')}${'of' in q ? q.of : ''}`)
    .join(', ')

/** What the chosen units calculate under the conditions that say something, whenever the plant is calculated. */
export function useCases(units: () => string[]) {
  const plant = usePlant()
  const store = useConditions()
  const work = useQuestion()
  const refusal = ref('')
  const found = shallowRef<{ cases: Case[]; conditions: Condition[] }>({ cases: [], conditions: [] })
  const wanted = computed(() => (plant.variant ? store.of(plant.variant.id).filter((c) => !isBlank(c)) : []))
  watch(
    [() => JSON.stringify([units(), wanted.value]), () => plant.current && plant.revision],
    async () => {
      const [id, conditions, tags] = [plant.variant?.id, wanted.value, units()]
      if (!id || !conditions.length || !tags.length) {
        work.stop()
        found.value = { cases: [], conditions: [] }
        refusal.value = ''
        return
      }
      if (!plant.current) return
      const mine = work.begin()
      const reply = await api.POST('/api/variants/{variant_id}/conditions', {
        params: { path: { variant_id: id } },
        body: { token: mine, units: tags, conditions },
      })
      if (!work.ended(mine)) return
      refusal.value = reply.data ? '' : sentence(reply.error)
      found.value = { cases: reply.data?.cases ?? [], conditions }
    },
    { immediate: true },
  )
  return { found, refusal, busy: work.busy, stop: work.stop }
}
