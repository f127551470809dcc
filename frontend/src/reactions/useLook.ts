import { useDebounceFn } from '@vueuse/core'
import { ref, shallowRef, watch, type Ref } from 'vue'
import { api, sentence, type ReactionLook } from '../api/client'
import { usePlant } from '../stores/plant'
import { useQuestion } from '../stores/question'
import { asked, type Draft } from './draft'

/** What the server says of a reaction while it is typed; `for` is the text that it is about. */
export function useLook(draft: Ref<Draft | null>) {
  const plant = usePlant()
  const work = useQuestion()
  const look = shallowRef<{ text: string; found: ReactionLook } | null>(null)
  const refusal = ref('')

  const question = (of: Draft) => ({
    text: of.text,
    phase: of.phase,
    forward: of.rated ? asked(of.forward) : null,
    backward: !of.rated || of.way === 'one way' ? null : of.way === 'own law' ? asked(of.backward) : of.way,
    // 25 to 725 °C in steps of 50.
    low: 298.15,
    high: 998.15,
  })
  /** The question that was put last, and its end; the same one is not put twice. */
  let last = { key: '', answered: Promise.resolve() }
  function ask(): Promise<void> {
    if (!draft.value || !plant.variant) return Promise.resolve()
    const reaction = question(draft.value)
    const key = JSON.stringify(reaction)
    if (key !== last.key) last = { key, answered: put(reaction) }
    return last.answered
  }
  async function put(reaction: ReturnType<typeof question>): Promise<void> {
    const mine = work.begin()
    const reply = await api.POST('/api/variants/{variant_id}/reaction-look', {
      params: { path: { variant_id: plant.variant!.id } },
      body: { token: mine, reaction },
    })
    if (!work.ended(mine)) return
    refusal.value = reply.data ? '' : sentence(reply.error)
    if (reply.data) look.value = { text: reaction.text, found: reply.data }
    else last.key = ''
  }
  const soon = useDebounceFn(ask, 250)
  watch(draft, () => void soon(), { deep: true, immediate: true })
  return { look, refusal, ask, busy: work.busy }
}
