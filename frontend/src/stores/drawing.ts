import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowRef } from 'vue'
import { api, sentence, type Diagram, type Quantity } from '../api/client'
import { useCatalogue } from './catalogue'
import { usePlant } from './plant'
import { second, useQuestion } from './question'

export type Kind =
  | 'boiling'
  | 'vapour_over_liquid'
  | 'mixing'
  | 'pure'
  | 'table'
  | 'envelope'
  | 'azeotropes'
  | 'azeotropes_over'
  | 'two_liquids'
  | 'residue_curves'

/** The diagrams on offer, in the order in which they are looked at. */
export const KINDS: { key: Kind; title: string; about: string; components: number }[] = [
  { key: 'pure', title: 'One component', about: 'a property over temperature', components: 1 },
  { key: 'boiling', title: 'Boiling diagram', about: 'T-x-y or P-x-y of two components', components: 2 },
  { key: 'vapour_over_liquid', title: 'Vapour over liquid', about: 'y over x of two components', components: 2 },
  { key: 'mixing', title: 'Mixing', about: 'Gibbs energy, enthalpy, activity', components: 2 },
  { key: 'azeotropes', title: 'Azeotropes', about: 'of all components at a pressure', components: 2 },
  { key: 'azeotropes_over', title: 'Azeotropes over pressure', about: 'how they move and vanish', components: 2 },
  { key: 'two_liquids', title: 'Two liquids', about: 'binodal and tie lines of three', components: 3 },
  { key: 'residue_curves', title: 'Residue curves', about: 'with boundaries, of three', components: 3 },
  { key: 'envelope', title: 'Phase envelope', about: 'of a stream', components: 1 },
  { key: 'table', title: 'Property table', about: 'of a stream over T and P', components: 1 },
]
const QUANTITIES: Partial<Record<Kind, string[]>> = {
  pure: [
    'vapour pressure',
    'heat of vaporisation',
    'heat of vaporisation, of the bank',
    'ideal-gas heat capacity',
    'liquid heat capacity',
    'liquid density',
    'liquid density, of the bank',
    'liquid viscosity',
    'gas viscosity',
    'liquid conductivity',
    'gas conductivity',
    'surface tension',
  ],
  mixing: ['activity coefficients', 'gibbs energy of mixing', 'excess gibbs energy', 'excess enthalpy'],
  table: ['enthalpy', 'entropy', 'molar_volume', 'vapour_fraction'],
}

/** What is asked of the chemistry on the page of diagrams, and the answer; kept while one works elsewhere. */
export const useDrawing = defineStore('drawing', () => {
  const plant = usePlant()
  const catalogue = useCatalogue()
  const asked = reactive({
    kind: 'boiling' as Kind,
    components: [] as string[],
    level: 'pressure' as 'pressure' | 'temperature',
    pressure: { value: 1.01325, unit: 'bar' } as Quantity,
    highest: { value: 10, unit: 'bar' } as Quantity,
    temperature: { value: 25, unit: 'degC' } as Quantity,
    coldest: { value: 0, unit: 'degC' } as Quantity,
    hottest: { value: 200, unit: 'degC' } as Quantity,
    quantity: {} as Partial<Record<Kind, string>>,
    stream: '',
    curves: 16,
    through: [] as number[][],
    /** The column whose stages are drawn over residue curves. */
    column: '',
    without: [] as string[],
    beside: '',
    basis: 'mole' as 'mole' | 'mass',
    form: 'triangle' as 'triangle' | 'right angle',
  })
  const diagrams = shallowRef<Diagram[]>([])
  const refusal = ref('')
  const work = useQuestion()
  /** What the diagrams at hand show; the next may be asked for already. */
  const answered = ref<Kind>('boiling')
  /** Solids have but their heat capacity to show. */
  const ids = computed(() =>
    asked.kind === 'pure' ? (plant.document?.chemistry.components ?? []).map((c) => c.id) : plant.fluids,
  )
  const kind = computed(() => KINDS.find((k) => k.key === asked.kind)!)
  /** Columns of the sheet that are calculated. */
  const columns = computed(() =>
    (plant.document?.units ?? [])
      .filter((u) => u.type === 'staged-column' && plant.result?.units[u.tag]?.profiles?.length)
      .map((u) => u.tag),
  )
  const streams = computed(() => Object.keys(plant.result?.streams ?? {}))
  /** The chosen components, filled up with the first ones of the chemistry. */
  const components = computed(() => {
    const known = asked.components.filter((id) => ids.value.includes(id))
    const rest = ids.value.filter((id) => !known.includes(id))
    return [...known, ...rest].slice(0, kind.value.components)
  })
  /** The components among which azeotropes are searched. */
  const searched = computed(() => ids.value.filter((id) => !asked.without.includes(id)))
  /** Questions about all components that are ticked. */
  const overAll = computed(() => ['azeotropes', 'azeotropes_over'].includes(asked.kind))
  const quantities = computed(() =>
    asked.kind === 'pure' && !plant.fluids.includes(components.value[0] ?? '')
      ? ['solid heat capacity']
      : QUANTITIES[asked.kind],
  )
  const quantity = computed(() => {
    const wanted = asked.quantity[asked.kind] ?? ''
    return quantities.value?.includes(wanted) ? wanted : (quantities.value?.[0] ?? '')
  })
  const stream = computed(() => (streams.value.includes(asked.stream) ? asked.stream : (streams.value[0] ?? '')))

  /** The question as the server takes it, or null with what is missing. */
  function question(): { kind: Kind; [field: string]: unknown } | string {
    if (overAll.value && !searched.value.length) return 'Choose components to search among.'
    if (ids.value.length < kind.value.components) return `This takes ${kind.value.components} components or more.`
    const [first, second] = components.value
    const level = asked.level === 'pressure' ? { pressure: asked.pressure } : { temperature: asked.temperature }
    if (asked.kind === 'boiling' || asked.kind === 'vapour_over_liquid')
      return { kind: asked.kind, first, second, ...level }
    if (asked.kind === 'mixing')
      return { kind: asked.kind, first, second, quantity: quantity.value, temperature: asked.temperature }
    if (asked.kind === 'pure') return { kind: asked.kind, component: first, quantity: quantity.value }
    if (asked.kind === 'azeotropes') return { kind: asked.kind, pressure: asked.pressure, components: searched.value }
    if (asked.kind === 'azeotropes_over') {
      const { pressure, highest } = asked
      return { kind: asked.kind, pressure, highest, components: searched.value }
    }
    if (asked.kind === 'two_liquids')
      return { kind: asked.kind, components: components.value, temperature: asked.temperature, basis: asked.basis }
    if (asked.kind === 'residue_curves') {
      const { curves, through, basis } = asked
      return { kind: asked.kind, components: components.value, pressure: asked.pressure, curves, through, basis }
    }
    const found = plant.result?.streams[stream.value]
    if (!found) return 'This takes a stream of the sheet that is calculated.'
    const fractions = found.mole_fractions
    if (asked.kind === 'envelope') return { kind: asked.kind, fractions, own: [found.temperature, found.pressure] }
    const span = { coldest: asked.coldest, hottest: asked.hottest, pressures: [asked.pressure] }
    return { kind: asked.kind, fractions, quantity: quantity.value, ...span }
  }
  /** Measured points that belong on the diagram: of the same two components, near its pressure or temperature; SI. */
  const measured = computed(() => {
    if (!['boiling', 'vapour_over_liquid'].includes(answered.value)) return []
    const [first, second] = components.value
    return (plant.document?.chemistry.data ?? []).flatMap((set) => {
      const same = set.components.length === 2 && set.components.includes(first!) && set.components.includes(second!)
      if (!same || set.kind !== 'vapour-liquid') return []
      const at = new Map(set.columns.map((c, k) => [c.key, { k, ...scale(c.key, c.unit ?? '') }]))
      const value = (row: (number | null)[], key: string) => {
        const c = at.get(key)
        const v = c ? row[c.k] : null
        return c && v !== null && v !== undefined ? v * c.factor + c.offset : null
      }
      const turn = (x: number) => (set.components[0] === first ? x : 1 - x)
      const points = (set.rows ?? []).flatMap((row) => {
        const [t, p, x, y] = ['T', 'P', 'x1', 'y1'].map((key) => value(row, key))
        const wanted =
          asked.level === 'pressure' ? [p, si(asked.pressure, 'pressure')] : [t, si(asked.temperature, 'temperature')]
        if (!wanted[0] || Math.abs(wanted[0] / wanted[1]! - 1) > (asked.level === 'pressure' ? 0.03 : 0.002)) return []
        const level = asked.level === 'pressure' ? t : p
        if (x === null || x === undefined) return []
        if (answered.value === 'vapour_over_liquid') return typeof y === 'number' ? [[turn(x), turn(y)]] : []
        if (typeof level !== 'number') return []
        return [[turn(x), level], ...(typeof y === 'number' ? [[turn(y), level]] : [])]
      })
      return points.length ? [{ name: set.name, points }] : []
    })
  })
  function scale(key: string, unit: string) {
    const kind = key === 'T' ? 'temperature' : key === 'P' ? 'pressure' : 'fraction'
    return catalogue.data?.kinds[kind]?.units.find((u) => u.name === unit) ?? { factor: 1, offset: 0 }
  }
  const si = (q: Quantity, kind: 'pressure' | 'temperature') => {
    const { factor, offset } = scale(kind === 'pressure' ? 'P' : 'T', q.unit ?? '')
    return q.value * factor + offset
  }
  /** Ask again; an answer that was overtaken is dropped. */
  async function draw() {
    if (!plant.variant) return
    const one = question()
    if (typeof one === 'string') {
      work.stop()
      refusal.value = one
      diagrams.value = []
      return
    }
    const mine = work.begin()
    const over = one.kind === 'residue_curves' && columns.value.includes(asked.column) ? asked.column : ''
    const params = { path: { variant_id: plant.variant.id } }
    const ask = (token: string, model?: string) =>
      api.POST('/api/variants/{variant_id}/diagram', {
        params,
        body: { question: { ...one, ...(model ? { model } : {}) }, token, column: model ? '' : over },
      })
    const answers = await Promise.all([ask(mine), ...(asked.beside ? [ask(second(mine), asked.beside)] : [])])
    if (!work.ended(mine)) return
    answered.value = one.kind as Kind
    refusal.value = answers
      .map((a) => (a.data ? '' : sentence(a.error)))
      .filter(Boolean)
      .join(' ')
    diagrams.value = answers.flatMap((a) => (a.data ? [a.data] : []))
  }
  return {
    asked,
    diagrams,
    answered,
    measured,
    refusal,
    busy: work.busy,
    share: work.share,
    stop: work.stop,
    ids,
    kind,
    components,
    searched,
    overAll,
    quantities,
    quantity,
    columns,
    stream,
    streams,
    draw,
  }
})
