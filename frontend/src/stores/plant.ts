import { useEventListener, useLocalStorage, useThrottleFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import {
  api,
  sentence,
  type Answer,
  type Changed,
  type Edit,
  type Partial,
  type Plant,
  type Quarrel,
  type Result,
  type Stream,
  type Unit,
  type UnitType,
  type Variant,
} from '../api/client'
import { alike, alikeBy } from './alike'
import { useCatalogue, type StreamKind } from './catalogue'
import { patched, type PatchStep } from './patches'
import type { Share } from './question'

export type Mark = 'open' | 'ready' | 'current' | 'stale' | 'fault'
/** Least time between two looks at a calculation that is under way, ms. */
const LOOK = 250

/** The open variant: document, results and the way to change them. Everything calculated comes from the server. */
/** How far a study has come, as the server tells it. */
export interface StudyNews {
  answer: number
  name: string
  state: string
  done: number
  planned: number | null
  left: number | null
}

export const usePlant = defineStore('plant', () => {
  const catalogue = useCatalogue()
  const variant = shallowRef<Variant | null>(null)
  const answer = shallowRef<Answer | null>(null)
  const notice = ref('')
  const connected = ref(true)
  const selected = ref<string | null>(null)
  const solving = ref(false)
  /** The pins' values of the calculation before, by name. */
  const pinsBefore = shallowRef(new Map<string, number | null>())
  /** Units of the running calculation that are done already, by tag. */
  const done = shallowRef(new Set<string>())
  /** A refused edit beside the one that came in between. */
  const quarrel = shallowRef<(Quarrel & { edit: Edit }) | null>(null)
  let source: EventSource | null = null
  let again = 0
  let chain: Promise<unknown> = Promise.resolve()

  const document = computed<Plant | null>(() => variant.value?.document ?? null)
  const revision = computed(() => variant.value?.revision ?? 0)
  const result = computed<Result | null>(() => answer.value?.result ?? null)
  const current = computed(() => answer.value?.kind === 'result' && answer.value.revision === revision.value)
  const editable = computed(() => variant.value?.role !== 'reader')
  const unitSets = computed(() => [
    ...Object.keys(catalogue.data?.unit_sets ?? {}),
    ...(document.value?.unit_sets ?? []).map((s) => s.name),
  ])
  /** The set of units that this person wants to see, whatever the plant's is; kept on this computer. */
  const ownUnits = useLocalStorage('wattaxis-units', '')
  const unitSet = computed(() =>
    unitSets.value.includes(ownUnits.value) ? ownUnits.value : (document.value?.unit_set ?? 'Metric'),
  )
  watch(
    () => document.value?.unit_sets,
    (sets) => (catalogue.own = Object.fromEntries((sets ?? []).map((s) => [s.name, s.units]))),
  )

  function accept(next: Variant) {
    if (variant.value && variant.value.id === next.id && next.revision < variant.value.revision) return
    const before = variant.value?.id === next.id ? variant.value : null
    variant.value = {
      ...next,
      document: kept(before?.document, next.document),
      shapes: alike(before?.shapes, next.shapes),
    }
    if (next.answer) take(next.answer)
    leaveWhatIsGone()
  }
  /** Take over what has changed; the whole variant where the changes are of another revision than the one shown. */
  async function acceptChanged({ patch, base, ...next }: Changed): Promise<void> {
    const before = variant.value
    if (!before || next.revision < before.revision) return
    // Without its stream a page does not hear of results either.
    if ((base && base !== before.revision) || source?.readyState !== EventSource.OPEN) return refresh()
    const { document, shapes } = before
    variant.value = { ...before, ...next, ...patched({ document, shapes }, patch) }
    leaveWhatIsGone()
  }
  function leaveWhatIsGone() {
    const parts = [...(document.value?.units ?? []), ...(document.value?.streams ?? [])]
    if (selected.value && !parts.some((part) => part.tag === selected.value)) selected.value = null
  }
  function kept(before: Plant | undefined, next: Plant): Plant {
    const units = alikeBy(before?.units ?? undefined, next.units ?? [], (u) => u.tag)
    const streams = alikeBy(before?.streams ?? undefined, next.streams ?? [], (s) => s.tag)
    return { ...alike(before, next), units, streams }
  }
  function take(next: Answer) {
    if (answer.value && next.revision < answer.value.revision) return
    parts = []
    if (next.result && answer.value?.result && next.revision > answer.value.revision)
      pinsBefore.value = new Map((answer.value.result.pins ?? []).map((p) => [p.name, p.value ?? null]))
    done.value = new Set()
    solving.value = false
    const whole = next.kind === 'stopped' ? joined(next) : next
    answer.value = { ...whole, result: alike(answer.value?.result, whole.result) }
  }
  /** What was calculated before it was stopped, over what is known from before and out of date. */
  function joined(next: Answer): Answer {
    const [before, new_] = [answer.value?.result, next.result!]
    const reached = Object.values(new_.units).filter((u) => u.mark !== 'ready')
    done.value = new Set(reached.map((u) => u.tag))
    const units = { ...new_.units, ...before?.units, ...Object.fromEntries(reached.map((u) => [u.tag, u])) }
    return { ...next, result: { ...new_, units, streams: { ...before?.streams, ...new_.streams }, complete: false } }
  }
  /** Units and streams of a calculation that is still running; shown a few times a second, however often they come. */
  let parts: Partial[] = []
  function takePart(part: Partial) {
    parts.push(part)
    void showParts()
  }
  /** The units of a part, those that are as they were in the last results among them. */
  function reached(part: Partial): Result['units'] {
    const known = received?.revision === part.since ? received?.result?.units : undefined
    const same = (part.same ?? []).filter((tag) => known?.[tag]).map((tag) => [tag, known![tag]])
    return { ...Object.fromEntries(same), ...part.units }
  }
  const showParts = useThrottleFn(
    () => {
      const before = answer.value?.result
      const fresh = parts.filter((part) => part.revision === revision.value)
      parts = []
      if (!before || !fresh.length || current.value) return
      const units = Object.assign({}, ...fresh.map(reached)) as Result['units']
      const streams = Object.assign({}, ...fresh.map((part) => part.streams)) as Result['streams']
      done.value = new Set([...done.value, ...Object.keys(units)])
      const result = { ...before, units: { ...before.units, ...units }, streams: { ...before.streams, ...streams } }
      answer.value = { ...answer.value!, result: alike(before, result) }
    },
    LOOK,
    true,
  )

  async function open(id: number): Promise<boolean> {
    close()
    const reply = await api.GET('/api/variants/{variant_id}', { params: { path: { variant_id: id } } })
    if (!reply.data) {
      notice.value = sentence(reply.error)
      return false
    }
    accept(reply.data as Variant)
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
    quarrel.value = null
    pinsBefore.value = new Map()
    done.value = new Set()
    parts = []
    received = null
  }
  /** The last results that the stream brought, untouched: the next ones come as what is new in them. */
  let received: Answer | null = null
  function heard(event: Answer & { patch?: PatchStep[]; since?: number }): Answer | null {
    const { patch, since, ...next } = event
    if (patch && received?.revision !== since) return null
    const whole = patch ? { ...next, result: patched(received!.result, patch) } : next
    if (whole.result) received = whole
    return whole
  }
  function listen(id: number) {
    received = null
    source = new EventSource(`/api/variants/${id}/events`)
    source.onopen = () => {
      if (!connected.value) void refresh()
      connected.value = true
    }
    source.onerror = () => {
      connected.value = false
      // A browser tries again after a line that breaks, and never after an answer that is no stream: a server that is busy, rights that are gone.
      if (source?.readyState !== EventSource.CLOSED) return
      window.clearTimeout(again)
      again = window.setTimeout(() => variant.value?.id === id && listen(id), 3000)
    }
    source.onmessage = (message) => {
      const event = JSON.parse(message.data)
      if (['result', 'stopped', 'failed'].includes(event.kind)) {
        const answer = heard(event)
        if (answer) take(answer)
        else reopen(id)
      }
      if (event.token) shares.set(event.token, event.share)
      else if (event.kind === 'partial') takePart(event)
      if (event.kind === 'study') studies.set(event.answer, event)
      if (event.kind === 'solving' || event.solving) solving.value = true
      if (event.kind === 'revision' && event.revision > revision.value) void chain.then(() => follow(event))
    }
  }
  function reopen(id: number) {
    source?.close()
    listen(id)
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
    if (reply.data) accept(reply.data as Variant)
  }
  /** Take over what others have changed: as the stream tells it, or from the server where this page is further behind. */
  async function follow(event: Pick<Changed, 'base' | 'revision' | 'patch'>) {
    const before = variant.value
    if (!before || event.revision <= before.revision) return
    const { base, revision, patch } = event
    if (base !== before.revision) await catchUp()
    else await acceptChanged({ base, revision, patch, undo: before.undo, redo: before.redo })
  }
  async function catchUp() {
    const params = { path: { variant_id: variant.value?.id ?? 0 }, query: { base: revision.value } }
    const reply = await api.GET('/api/variants/{variant_id}/changes', { params })
    if (reply.data && variant.value?.id === params.path.variant_id) await acceptChanged(reply.data)
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
    const call = () =>
      api.POST('/api/variants/{variant_id}/edits', {
        params: { path: { variant_id: id } },
        body: { base: revision.value, edit: change },
      })
    return run(call, change)
  }
  async function run(call: () => Promise<{ data?: Changed; error?: unknown }>, change?: Edit): Promise<string> {
    try {
      const reply = await call()
      if (reply.data) {
        await acceptChanged(reply.data)
        notice.value = ''
        return ''
      }
      const refusal = reply.error as Quarrel | undefined
      if (refusal?.changed && change) {
        await acceptChanged(refusal.changed)
        quarrel.value = { ...refusal, edit: change }
        return refusal.message
      }
      notice.value = sentence(reply.error)
    } catch (error) {
      notice.value = sentence(error)
    }
    return notice.value
  }
  /** Estimate the pairs that nobody knows, or all alike; returns what could not be estimated, or why nothing was. */
  async function estimate(alike: boolean, token: string): Promise<string> {
    if (!variant.value) return ''
    const params = { path: { variant_id: variant.value.id }, query: { alike, base: revision.value, token } }
    const reply = await api.POST('/api/variants/{variant_id}/estimate', { params })
    if (!reply.data) return sentence(reply.error)
    await acceptChanged(reply.data.changed)
    return reply.data.left_out.join(' ')
  }
  /** End a quarrel: one's own edit is made again on the newest state, or given up. */
  async function settle(mine: boolean) {
    const open = quarrel.value
    quarrel.value = null
    if (mine && open) await edit(open.edit)
  }
  /** End the calculation under way and keep what it has, or begin it again. */
  async function calculate(way: 'halt' | 'calculate') {
    const params = { path: { variant_id: variant.value?.id ?? 0 } }
    if (way === 'calculate') solving.value = true
    const reply =
      way === 'halt'
        ? await api.POST('/api/variants/{variant_id}/halt', { params })
        : await api.POST('/api/variants/{variant_id}/calculate', { params })
    if (!reply.data) notice.value = sentence(reply.error)
  }
  /** Undo, redo, or back to an earlier revision; after the edits that are under way. */
  function step(way: 'undo' | 'redo' | number): Promise<string> {
    const variant_id = variant.value?.id ?? 0
    const call = () => {
      const query = { base: revision.value }
      const params = { params: { path: { variant_id }, query } }
      if (way === 'undo') return api.POST('/api/variants/{variant_id}/undo', params)
      if (way === 'redo') return api.POST('/api/variants/{variant_id}/redo', params)
      return api.POST('/api/variants/{variant_id}/back/{number}', {
        params: { path: { variant_id, number: way }, query },
      })
    }
    const next = chain.then(() => run(call))
    chain = next.catch(() => undefined)
    return next
  }

  const unitsByTag = computed(() => new Map((document.value?.units ?? []).map((u) => [u.tag, u])))
  const streamsByTag = computed(() => new Map((document.value?.streams ?? []).map((s) => [s.tag, s])))
  function unit(tag: string | null): Unit | undefined {
    return unitsByTag.value.get(tag ?? '')
  }
  function stream(tag: string | null): Stream | undefined {
    return streamsByTag.value.get(tag ?? '')
  }
  /** How far questions have come, by their token. */
  const shares = reactive(new Map<string, Share>())
  /** Studies that were heard of since the page was opened, by their answers. */
  const studies = reactive(new Map<number, StudyNews>())
  /** Ids of the components that are no conventional solids: what property models, their pairs and data are about. */
  const fluids = computed(() =>
    (document.value?.chemistry.components ?? []).filter((c) => !c.solid && !c.own_solid).map((c) => c.id),
  )
  /** The type of a unit, with the ports and choices that its givens make. */
  function typeOf(of: Unit | undefined): UnitType | undefined {
    const type = catalogue.type(of?.type ?? '')
    const shape = of && variant.value?.shapes[of.tag]
    if (!type || !shape) return type
    const known = shaped.get(shape)
    if (known?.type === type.type) return known
    const made = { ...type, ...shape }
    shaped.set(shape, made)
    return made
  }
  const shaped = new WeakMap<object, UnitType>()
  /** What leaves or enters by a port of a unit. */
  function carried(tag: string, port: string): StreamKind {
    return typeOf(unit(tag))?.ports.find((p) => p.key === port)?.kind ?? 'material'
  }
  /** What a stream carries. */
  function kindOf(stream: Stream): StreamKind {
    return carried(stream.source.unit, stream.source.port)
  }
  function mark(tag: string): Mark {
    const known = result.value?.units[tag]
    if (!known) return current.value ? 'open' : 'ready'
    return !current.value && !done.value.has(tag) && known.mark === 'current' ? 'stale' : (known.mark as Mark)
  }
  /** The next free tag of a letter: E-101, E-102, ...; S-01 for streams, Q-01 for heat, W-01 for shafts. */
  function freeTag(letter: string, also: string[] = []): string {
    const taken = new Set(
      [...(document.value?.units ?? []), ...(document.value?.streams ?? [])].map((x) => x.tag).concat(also),
    )
    const streams = ['S', 'Q', 'W'].includes(letter)
    let number = streams ? 1 : 101
    const text = (n: number) => (streams ? `${letter}-${String(n).padStart(2, '0')}` : `${letter}-${n}`)
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
    pinsBefore,
    quarrel,
    settle,
    calculate,
    estimate,
    document,
    revision,
    result,
    current,
    editable,
    unitSet,
    unitSets,
    ownUnits,
    open,
    close,
    refresh,
    edit,
    step,
    unit,
    stream,
    shares,
    studies,
    fluids,
    typeOf,
    carried,
    kindOf,
    mark,
    freeTag,
  }
})
