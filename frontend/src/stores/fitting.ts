import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { api, sentence, type Edit, type EditOf, type FitAnswer, type KeptFit, type Measured } from '../api/client'
import { useCatalogue } from './catalogue'
import { useDrafts } from './drafts'
import { usePlant } from './plant'
import { useQuestion } from './question'
import { rateRows, rowKey, type RateRow } from './rateRows'

/** A parameter of a pair on the page: whether it is freed, and from where it starts. */
export interface FreeRow {
  first: string
  second: string
  name: string
  free: boolean
  start: number
  low: number | ''
  high: number | ''
}

/** Measured data of the chemistry and the fit that is being made of them; kept while one works elsewhere. */
export const useFitting = defineStore('fitting', () => {
  const plant = usePlant()
  const catalogue = useCatalogue()
  const chosen = ref('')
  const asked = reactive({
    model: '',
    objective: 'least squares' as 'least squares' | 'least squares of temperature' | 'maximum likelihood',
    data: [] as string[],
    rows: [] as FreeRow[],
    reactions: '',
    rates: [] as RateRow[],
    remark: '',
  })
  const answer = shallowRef<FitAnswer | null>(null)
  /** What the answer is an answer to, and an earlier one that is kept beside it. */
  const title = ref('')
  const beside = shallowRef<{ title: string; answer: FitAnswer } | null>(null)
  const refusal = ref('')
  const work = useQuestion()

  /** Sets with values that look like a slip, which are kept only when a person says so. */
  const doubted = shallowRef<{ edit: Edit; names: string[]; doubts: string[] } | null>(null)
  const drafts = useDrafts<Measured>(async (name, data, newest) => {
    if (!plant.variant) return ''
    const reply = await check(name, data)
    if (!reply.data) return sentence(reply.error)
    if (!newest()) return ''
    const edit = { kind: 'set_data' as const, name, data }
    if (!reply.data.doubts.length) {
      const refusal = await plant.edit(edit)
      // A quarrel holds the edit; what it ends with is shown.
      if (plant.quarrel) drafts.drop(name)
      return refusal
    }
    doubted.value = { edit, names: [name], doubts: reply.data.doubts }
    return null
  })
  const check = (name: string, data: Measured, cells: string[][] = [], first = 0) =>
    api.POST('/api/variants/{variant_id}/data-check', {
      params: { path: { variant_id: plant.variant?.id ?? 0 } },
      body: { name, data, cells, first },
    })
  watch(
    () => plant.variant?.id,
    () => {
      drafts.clear()
      doubted.value = null
    },
  )
  /** The sets of the document, with what was typed into them and is still on its way. */
  const sets = computed(() => (plant.document?.chemistry.data ?? []).map((s) => drafts.get(s.name) ?? s))
  const fits = computed(() => plant.document?.chemistry.fits ?? [])
  const set = computed(() => sets.value.find((s) => s.name === chosen.value) ?? sets.value[0])
  const models = computed(() => (catalogue.data?.models ?? []).filter((m) => m.parameters.length))
  const kindOf = (s: Measured) => catalogue.data?.data_kinds.find((k) => k.key === s.kind)
  const modeOf = (s: Measured) => (kindOf(s)?.reacting ? 'rates' : kindOf(s)?.alone ? 'pure' : 'pairs')
  /** What is fitted: pairs of a model, the vapour pressure of a component, or rate laws; as the data set that is open says. */
  const mode = computed(() => (set.value ? modeOf(set.value) : 'pairs'))
  const pure = computed(() => mode.value === 'pure')
  /** The sets that can be fitted together with the open one. */
  const offered = computed(() =>
    sets.value.filter((s) => modeOf(s) === mode.value && (!pure.value || s.components[0] === set.value?.components[0])),
  )
  const used = computed(() => asked.data.filter((name) => offered.value.some((s) => s.name === name)))
  const model = computed(() => ({ pure: 'vapour-pressure', rates: 'rate-laws', pairs: asked.model })[mode.value])
  const reactionSets = computed(() => plant.document?.chemistry.reactions ?? [])
  const reactionSet = computed(
    () => reactionSets.value.find((s) => s.name === asked.reactions) ?? reactionSets.value[0],
  )
  /** Components of the reactions, those used up first. */
  const reactants = computed(() => {
    const found = new Set<string>()
    for (const sign of [-1, 1])
      for (const r of reactionSet.value?.reactions ?? [])
        for (const [id, n] of Object.entries(r.numbers)) if (sign * n > 0) found.add(id)
    return [...found]
  })
  /** Whether the data are at several temperatures. */
  const hot = computed(() => {
    const cells = offered.value
      .filter((s) => used.value.includes(s.name))
      .flatMap((s) => {
        const at = s.columns.findIndex((c) => c.key === 'T')
        return (s.rows ?? []).map((row) => row[at])
      })
    return new Set(cells.filter((t) => t !== null)).size > 1
  })
  watch(
    () => [reactionSet.value, hot.value] as const,
    ([of, several], before) => {
      const known = new Map(asked.rates.map((r) => [rowKey(r), r.free]))
      const kept = before && before[0]?.name === of?.name && before[1] === several
      asked.rates = rateRows(of, several).map((r) => (kept ? { ...r, free: known.get(rowKey(r)) ?? r.free } : r))
    },
    { immediate: true },
  )
  /** Pairs of the components that the chosen sets speak of. */
  const pairs = computed(() => {
    const found = new Map<string, [string, string]>()
    for (const s of sets.value.filter((x) => used.value.includes(x.name)))
      s.components.forEach((a, i) => s.components.slice(i + 1).forEach((b) => found.set(`${a}|${b}`, [a, b])))
    return [...found.values()]
  })
  /** Freed until someone says otherwise: what a set at one temperature can tell. */
  const FREED = ['b12', 'b21', 'kij']
  watch(
    () => [asked.model, pairs.value, models.value, pure.value] as const,
    () => {
      if (pure.value) {
        const id = set.value?.components[0] ?? ''
        const start = { A: 0, B: 0, C: -40 }
        asked.rows = (['A', 'B', 'C'] as const).map((name) => ({
          first: id,
          second: id,
          name,
          free: true,
          start: start[name],
          low: '' as const,
          high: '' as const,
        }))
        return
      }
      const model = models.value.find((m) => m.key === asked.model)
      const known = new Map(asked.rows.map((r) => [`${r.first}|${r.second}|${r.name}`, r]))
      const two = (name: string) => ['margules', 'van-laar'].includes(asked.model) && /^a(12|21)$/.test(name)
      asked.rows = pairs.value.flatMap(([first, second]) =>
        (model?.parameters ?? []).map((p) => {
          const kept = known.get(`${first}|${second}|${p.name}`)
          const start = p.name === 'alpha' ? 0.3 : two(p.name) ? 0.5 : 0
          return (
            kept ?? {
              first,
              second,
              name: p.name,
              free: ['margules', 'van-laar'].includes(asked.model) ? two(p.name) : FREED.includes(p.name),
              start,
              low: '' as const,
              high: '' as const,
            }
          )
        }),
      )
    },
    { immediate: true },
  )
  watch(
    models,
    (list) => {
      const own = plant.document?.chemistry.model
      if (!asked.model && list.length) asked.model = list.some((m) => m.key === own) ? own! : 'nrtl'
    },
    { immediate: true },
  )
  watch(
    sets,
    (list, before) => {
      const old = new Set((before ?? []).map((s) => s.name))
      asked.data = [
        ...asked.data.filter((name) => list.some((s) => s.name === name)),
        ...list.map((s) => s.name).filter((name) => !old.has(name) && !asked.data.includes(name)),
      ]
    },
    { immediate: true },
  )

  const bound = (value: number | '') => (value === '' ? null : value)
  const rows = (list: FreeRow[]) =>
    list.map(({ first, second, name, start, low, high }) => ({
      ...{ first, second, name, start },
      ...{ low: bound(low), high: bound(high) },
    }))
  const free = () => rows(asked.rows.filter((r) => r.free))
  /** Constants of a vapour pressure that are not freed keep what stands there. */
  const fixed = () => (pure.value ? { fixed: rows(asked.rows.filter((r) => !r.free)) } : {})
  const freeRates = () =>
    asked.rates
      .filter((r) => r.free)
      .map(({ reaction, part, constant, component, backward }) => ({ reaction, part, constant, component, backward }))
  /** What is freed, in the order of the values of the answer. */
  const labels = computed(() =>
    mode.value === 'rates'
      ? asked.rates.filter((r) => r.free).map((r) => r.label)
      : asked.rows.filter((r) => r.free).map((r) => r.name),
  )
  const question = () =>
    mode.value === 'rates'
      ? { model: undefined, reactions: reactionSet.value?.name, data: used.value, free: freeRates() }
      : {
          model: model.value,
          reactions: undefined,
          objective: asked.objective,
          data: used.value,
          free: free(),
          ...fixed(),
        }
  /** What a fit is of: the model or the reactions, and the numbers that are free; not where they start. */
  const subject = (of: ReturnType<typeof question>) =>
    JSON.stringify([of.model, of.reactions, of.free.map((f) => ({ ...f, start: 0, low: 0, high: 0 }))])
  const answered = ref('')
  /** Whether the answer is one to what is asked now. */
  const current = computed(() => answer.value !== null && answered.value === subject(question()))
  /** What a fit is of, in words. */
  const called = (fit: { model: string; objective?: string; reactions?: string }) =>
    fit.model === 'rate-laws'
      ? `rates of ${fit.reactions}`
      : `${models.value.find((m) => m.key === fit.model)?.title ?? 'vapour pressure'}, ${fit.objective}`
  async function run() {
    if (!plant.variant) return
    const token = work.begin()
    await drafts.settled()
    const fit = question()
    const reply = await api.POST('/api/variants/{variant_id}/fit', {
      params: { path: { variant_id: plant.variant.id } },
      body: { fit, token },
    })
    if (!work.ended(token)) return
    answered.value = subject(fit)
    answer.value = (reply.data as FitAnswer | undefined) ?? null
    const of = { model: model.value, objective: asked.objective, reactions: reactionSet.value?.name ?? '' }
    title.value = `${called(of)}, ${labels.value.length} free`
    refusal.value = reply.data ? '' : sentence(reply.error)
  }
  /** One edit: keep the fit with all it says, and use its values. */
  function apply(author: string): Promise<string> {
    const found = answer.value
    if (!found) return Promise.resolve('')
    const taken = new Set(fits.value.map((f) => f.name))
    let number = 1
    while (taken.has(`Fit ${number}`)) number += 1
    const name = `Fit ${number}`
    const date = new Date().toISOString().slice(0, 10)
    const { values, half_widths, correlation, sum_of_squares, deviations, quality } = found
    const fit = {
      name,
      model: model.value,
      ...(mode.value === 'rates' ? { reactions: reactionSet.value?.name } : {}),
      data: used.value,
      free:
        mode.value === 'rates' ? freeRates().map((f, k) => ({ ...f, holds_at: found.holds_at?.[k] ?? null })) : free(),
      objective: mode.value === 'rates' ? ('least squares' as const) : asked.objective,
      ...{ values, half_widths, correlation, sum_of_squares, deviations, quality },
      remark: asked.remark,
      author,
      date,
    }
    const [low = '', high = ''] = found.temperatures.map((t) => catalogue.told(t, 'temperature', plant.unitSet))
    const range = low === high ? `at ${low}` : `from ${low} to ${high}`
    const source = `${name} to ${used.value.join(', ')}, ${range}, ${date}`.slice(0, 200)
    const edits: Edit[] = [
      { kind: 'set_fit', name, fit },
      ...found.pairs.map((p) => ({ kind: 'set_pair' as const, model: asked.model, ...p, source, quality })),
    ]
    for (const reaction of found.reactions ?? [])
      edits.push({ kind: 'set_reaction', of: reactionSet.value!.name, name: reaction.name, reaction })
    if (found.vapour_pressure) {
      const { component, ...curve } = found.vapour_pressure
      edits.push({ kind: 'set_vapour_pressure', id: component, vapour_pressure: { ...curve, source } })
    }
    return plant.edit({ kind: 'batch', edits, label: `applied ${name}` })
  }
  /** Use a fit that was kept: its values over what its pairs have now. Empty when done, else why not. */
  async function reapply(fit: KeptFit): Promise<string> {
    const edits: Edit[] = []
    const chemistry = plant.document?.chemistry
    const freed = fit.free.flatMap((f) => ('first' in f ? [f] : []))
    const pairs = [...new Map(freed.map((f) => [`${f.first}|${f.second}`, f])).values()]
    for (const { first, second } of pairs) {
      const fitted = freed.flatMap((f, k) =>
        f.first === first && f.second === second ? [[f.name, fit.values[k]!] as const] : [],
      )
      const now = chemistry?.pairs?.find(
        (p) => p.model === fit.model && [p.first, p.second].sort().join() === [first, second].sort().join(),
      )
      const values = { ...(now?.first === first ? now.values : {}), ...Object.fromEntries(fitted) }
      const parameters = catalogue.data?.models.find((m) => m.key === fit.model)?.parameters ?? []
      if (!(now?.first === first) && fitted.length < parameters.length)
        return `${fit.name} kept some parameters of ${first} and ${second} as they stood, and they stand no more: fit again.`
      const source = `${fit.name} to ${fit.data.join(', ')}, ${fit.date}`.slice(0, 200)
      const base = { model: fit.model as EditOf<'set_pair'>['model'], first, second, values, source }
      edits.push({ kind: 'set_pair', ...base, quality: fit.quality })
    }
    return plant.edit({ kind: 'batch', edits, label: `applied ${fit.name}` })
  }
  /** What is to be said where the plant uses another model than the one that was fitted, and the way to change that. */
  const idle = computed(() => {
    const used = plant.document?.chemistry.model
    if (mode.value !== 'pairs' || !asked.model || used === asked.model) return null
    const title = (key: string | undefined) => models.value.find((m) => m.key === key)?.title ?? key ?? ''
    return { fitted: title(asked.model), used: catalogue.data?.models.find((m) => m.key === used)?.title ?? used }
  })
  const useModel = () => plant.edit({ kind: 'set_model', model: asked.model as EditOf<'set_model'>['model'] })
  function save(data: Measured, name = data.name): Promise<string> {
    doubted.value = null
    return drafts.save(name, data)
  }
  /** A table with a heading goes into a set from a point on; returns what was left out or why nothing was taken, and the cells that are no numbers. */
  async function paste(data: Measured, cells: string[][], first: number) {
    const reply = await check(data.name, data, cells, first)
    if (!reply.data) return { text: sentence(reply.error), unread: [] }
    const refused = await save(reply.data.data)
    return { text: refused || reply.data.left_out.join(' '), unread: reply.data.unread }
  }
  /** Sets out of a file; those with doubtful values wait for a person. */
  async function add(data: Measured[], doubts: string[], label: string): Promise<string> {
    const edits = data.map((part) => ({ kind: 'set_data' as const, name: part.name, data: part }))
    const edit = { kind: 'batch' as const, edits, label }
    if (!doubts.length) return plant.edit(edit)
    doubted.value = { edit, names: [], doubts }
    return ''
  }
  /** The end of a doubt: the values are kept, or what was there before is shown again. */
  async function settle(right: boolean): Promise<string> {
    const open = doubted.value
    doubted.value = null
    const refusal = right && open ? await plant.edit(open.edit) : ''
    if (!refusal) open?.names.forEach(drafts.drop)
    return refusal
  }
  function freeName(start: string): string {
    const taken = new Set(sets.value.map((s) => s.name))
    let number = 1
    while (taken.has(`${start} ${number}`)) number += 1
    return `${start} ${number}`
  }
  return {
    chosen,
    asked,
    answer,
    title,
    beside,
    refusal,
    busy: work.busy,
    share: work.share,
    stop: work.stop,
    sets,
    fits,
    idle,
    reapply,
    useModel,
    set,
    models,
    mode,
    pure,
    offered,
    reactionSets,
    reactionSet,
    reactants,
    labels,
    current,
    called,
    used,
    pairs,
    run,
    apply,
    save,
    paste,
    add,
    doubted,
    settle,
    drop: drafts.drop,
    freeName,
  }
})
