import { computed, ref } from 'vue'
import { api } from '../api/client'
import { usePlant } from './plant'

/** The part of a question that is done, or how many others are answered before it. */
export type Share = number | { ahead: number }
/** A question under way: how far it has come, and its end before time. A new one ends the one before. */
export function useQuestion() {
  const plant = usePlant()
  const token = ref('')
  const share = computed(() => plant.shares.get(token.value) ?? null)
  const busy = computed(() => token.value !== '')
  function begin(): string {
    stop()
    token.value = Math.random().toString(36).slice(2)
    return token.value
  }
  /** Whether it is still the one that matters; it is over then. */
  function ended(mine: string): boolean {
    plant.shares.delete(mine)
    if (token.value !== mine) return false
    token.value = ''
    return true
  }
  function stop() {
    const mine = token.value
    if (!mine || !plant.variant) return
    token.value = ''
    const params = { path: { variant_id: plant.variant.id } }
    void api.POST('/api/variants/{variant_id}/stop', { params, body: { tokens: [mine, second(mine)] } })
  }
  return { share, busy, begin, ended, stop }
}
/** Of a question that is put twice, the token of the other one. */
export const second = (token: string) => `${token}-2`
