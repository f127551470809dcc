import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, sentence, whenSignedOut } from '../api/client'

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
  /** Whether the password was right and a code is wanted besides. */
  const codeWanted = ref(false)
  async function signIn(username: string, password: string, code: string): Promise<string> {
    try {
      const answer = await api.POST('/api/session', { body: { username, password, code } })
      codeWanted.value = !!answer.error && 'code' in answer.error && !!answer.error.code
      if (answer.error) return sentence(answer.error)
      person.value = answer.data.person
      return ''
    } catch (error) {
      return sentence(error)
    }
  }
  /** Whether the sign-in ended while a page was open; whoever waits goes on when somebody has signed in again. */
  const ended = ref(false)
  let waiting: ((again: boolean) => void)[] = []
  whenSignedOut(() => {
    if (!person.value) return Promise.resolve(false)
    ended.value = true
    return new Promise((go) => waiting.push(go))
  })
  function goOn(again: boolean) {
    ended.value = false
    waiting.forEach((go) => go(again))
    waiting = []
  }
  async function signInAgain(password: string, code: string): Promise<string> {
    const refused = await signIn(person.value?.username ?? '', password, code)
    if (!refused) goOn(true)
    return refused
  }
  async function signOut() {
    await api.DELETE('/api/session')
    person.value = null
  }
  return { person, shared, known, codeWanted, ended, load, signIn, signInAgain, leave: () => goOn(false), signOut }
})
