import { useEventListener } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, sentence, type Answer, type Edit, type Plant, type Result, type Unit, type Variant } from '../api/client'

export type Mark = 'open' | 'ready' | 'current' | 'stale' | 'fault'

/** The open variant: document, results and the way to change them. Everything calculated comes from the server. */
export const usePlant = defineStore('plant', () => {
  const variant = shallowRef<Variant | null>(null)
  const answer = shallowRef<Answer | null>(null)
  const notice = ref('')
  const connected = ref(true)
  const selected = ref<string | null>(null)
  const solving = ref(false)
  let source: EventSource | null = null
  let chain: Promise<unknown> = Promise.resolve()

  const document = computed<Plant | null>(() => variant.value?.document ?? null)
  const revision = computed(() => variant.value?.revision ?? 0)
  const result = computed<Result | null>(() => answer.value?.result ?? null)
  const current = computed(() => answer.value?.kind === 'result' && answer.value.revision === revision.value)
  const editable = computed(() => variant.value?.role !== 'reader')
  const unitSet = computed(() => document.value?.unit_set ?? 'Metric')

  function accept(next: Variant) {
    if (variant.value && variant.value.id === next.id && next.revision < variant.value.revision) return
    variant.value = next
    if (next.answer) take(next.answer)
    if (
      selected.value &&
      !next.document.units?.some((u) => u.tag === selected.value) &&
      !next.document.streams?.some((s) => s.tag === selected.value)
    )
      selected.value = null
  }
  function take(next: Answer) {
    if (answer.value && next.revision < answer.value.revision) return
    answer.value = next
    solving.value = false
  }

  async function open(id: number): Promise<boolean> {
    close()
    const reply = await api.GET('/api/variants/{variant_id}', { params: { path: { variant_id: id } } })
    if (!reply.data) {
      notice.value = sentence(reply.error)
      return false
    }
    accept(reply.data)
    listen(id)
    return true
  }
  function close() {
    source?.close()
    source = null
    variant.value = null
    answer.value = null
    selected.value = null
    notice.value = ''
  }
  function listen(id: number) {
    source = new EventSource(`/api/variants/${id}/events`)
    source.onopen = () => {
      if (!connected.value) void refresh()
      connected.value = true
    }
    source.onerror = () => (connected.value = false)
    source.onmessage = (message) => {
      const event = JSON.parse(message.data)
      if (event.kind === 'result' || event.kind === 'failed') take(event)
      if (event.kind === 'solving') solving.value = true
      if (event.kind === 'revision' && event.revision > revision.value)
        void chain.then(() => (event.revision > revision.value ? refresh() : undefined))
    }
  }
  // A page kept in the browser's back-and-forward cache would hold its connection for ever.
  useEventListener('pagehide', () => source?.close())
  useEventListener('pageshow', (event: PageTransitionEvent) => {
    if (!event.persisted || !variant.value) return
    listen(variant.value.id)
    void refresh()
  })
  async function refresh() {
    if (!variant.value) return
    const reply = await api.GET('/api/variants/{variant_id}', { params: { path: { variant_id: variant.value.id } } })
    if (reply.data) accept(reply.data)
  }

  /** Make an edit; edits go out one after the other. Returns an empty text, or why it was refused. */
  function edit(change: Edit): Promise<string> {
    const next = chain.then(() => send(change))
    chain = next.catch(() => undefined)
    return next
  }
  async function send(change: Edit): Promise<string> {
    if (!variant.value) return ''
    const id = variant.value.id
    return run(() =>
      api.POST('/api/variants/{variant_id}/edits', {
        params: { path: { variant_id: id } },
        body: { base: revision.value, edit: change },
      }),
    )
  }
  async function run(call: () => Promise<{ data?: Variant; error?: unknown }>): Promise<string> {
    try {
      const reply = await call()
      if (reply.data) {
        accept(reply.data)
        notice.value = ''
        return ''
      }
      const refusal = reply.error as { variant?: Variant }
      if (refusal?.variant) accept(refusal.variant)
      notice.value = sentence(reply.error)
    } catch (error) {
      notice.value = sentence(error)
    }
    return notice.value
  }
  /** Undo, redo, or back to an earlier revision; after the edits that are under way. */
  function step(way: 'undo' | 'redo' | number): Promise<string> {
    const variant_id = variant.value?.id ?? 0
    const call = () => {
      const params = { params: { path: { variant_id } } }
      if (way === 'undo') return api.POST('/api/variants/{variant_id}/undo', params)
      if (way === 'redo') return api.POST('/api/variants/{variant_id}/redo', params)
      return api.POST('/api/variants/{variant_id}/back/{number}', { params: { path: { variant_id, number: way } } })
    }
    const next = chain.then(() => run(call))
    chain = next.catch(() => undefined)
    return next
  }

  function unit(tag: string | null): Unit | undefined {
    return document.value?.units?.find((u) => u.tag === tag)
  }
  function stream(tag: string | null) {
    return document.value?.streams?.find((s) => s.tag === tag)
  }
  function mark(tag: string): Mark {
    const known = result.value?.units[tag]
    if (!known) return current.value ? 'open' : 'ready'
    return !current.value && known.mark === 'current' ? 'stale' : (known.mark as Mark)
  }
  /** The next free tag of a letter: E-101, E-102, ... */
  function freeTag(letter: string, also: string[] = []): string {
    const taken = new Set(
      [...(document.value?.units ?? []), ...(document.value?.streams ?? [])].map((x) => x.tag).concat(also),
    )
    let number = letter === 'S' ? 1 : 101
    const text = (n: number) => (letter === 'S' ? `S-${String(n).padStart(2, '0')}` : `${letter}-${n}`)
    while (taken.has(text(number))) number += 1
    return text(number)
  }
  return {
    variant,
    answer,
    notice,
    connected,
    selected,
    solving,
    document,
    revision,
    result,
    current,
    editable,
    unitSet,
    open,
    close,
    refresh,
    edit,
    step,
    unit,
    stream,
    mark,
    freeTag,
  }
})
