import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, sentence } from '../api/client'

export const useSession = defineStore('session', () => {
  const person = ref<{ username: string; staff: boolean } | null>(null)
  /** The variant that a share link lets this browser read. */
  const shared = ref<number | null>(null)
  const known = ref(false)

  async function load(again = false) {
    if (known.value && !again) return
    const answer = await api.GET('/api/session')
    person.value = answer.data?.person ?? null
    shared.value = answer.data?.shared ?? null
    known.value = true
  }
  async function signIn(username: string, password: string): Promise<string> {
    try {
      const answer = await api.POST('/api/session', { body: { username, password } })
      if (answer.error) return sentence(answer.error)
      person.value = answer.data.person
      return ''
    } catch (error) {
      return sentence(error)
    }
  }
  async function signOut() {
    await api.DELETE('/api/session')
    person.value = null
  }
  return { person, shared, known, load, signIn, signOut }
})
