import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowRef } from 'vue'
import { api, sentence, type Aim, type AimProposals, type Quantity, type Edit } from '../api/client'
import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from './catalogue'
import { splitKey } from './paths'
import { usePlant } from './plant'
import { useQuestion } from './question'

/** The aim that is being made or changed. */
export const useAims = defineStore('aims', () => {
  const plant = usePlant()
  const catalogue = useCatalogue()
  const open = ref(false)
  /** The name under which the aim stands already; empty for a new one. */
  const before = ref('')
  const asked = reactive({
    name: '',
    formula: '',
    target: null as Quantity | null,
    chosen: '',
    low: null as Quantity | null,
    high: null as Quantity | null,
    active: true,
  })
  const answer = shallowRef<AimProposals | null>(null)
  const work = useQuestion()
  const refusal = ref('')

  const aims = computed(() => plant.document?.aims ?? [])
  const freed = computed(() => new Map((plant.result?.aims ?? []).map((a) => [`${a.unit}.${a.field}`, a])))
  const key = (free: { unit: string; field: string }) => `${free.unit}.${free.field}`
  const choice = computed(() => answer.value?.proposals.find((p) => key(p) === asked.chosen))

  function begin(formula: string, aim?: Aim) {
    open.value = true
    before.value = aim?.name ?? ''
    Object.assign(asked, {
      name: aim?.name ?? '',
      formula: aim?.formula ?? formula,
      target: aim?.target ?? null,
      chosen: aim ? key(aim.free) : '',
      low: aim?.low ?? null,
      high: aim?.high ?? null,
      active: aim?.active ?? true,
    })
    answer.value = null
    refusal.value = ''
    if (asked.formula) void propose()
  }
  /** What could be freed for the formula as it stands. */
  async function propose() {
    if (!plant.variant || !asked.formula.trim()) return
    const token = work.begin()
    const reply = await api.POST('/api/variants/{variant_id}/aim-proposals', {
      params: { path: { variant_id: plant.variant.id } },
      body: { formula: asked.formula, token },
    })
    if (!work.ended(token)) return
    answer.value = reply.data ?? null
    refusal.value = reply.data ? '' : sentence(reply.error)
    if (reply.data && !asked.chosen) asked.chosen = reply.data.proposals[0] ? key(reply.data.proposals[0]) : ''
  }
  async function keep() {
    const [unit, field] = splitKey(asked.chosen)
    if (!asked.target || !unit) {
      refusal.value = asked.target ? 'Choose what may vary.' : 'Type a target.'
      return
    }
    const { formula, target, low, high, active } = asked
    const name = asked.name.trim() || formula.slice(0, 60)
    const aim = { name, formula, target, free: { unit, field }, low, high, active }
    const edits: Edit[] = [{ kind: 'set_aim', name, aim }]
    const old: Edit[] = before.value && before.value !== name ? [{ kind: 'set_aim', name: before.value }] : []
    refusal.value = await plant.edit(old.length ? { kind: 'batch', edits: [...old, ...edits], label: '' } : edits[0]!)
    open.value = !!refusal.value
  }
  const pause = (aim: Aim) => plant.edit({ kind: 'set_aim', name: aim.name, aim: { ...aim, active: !aim.active } })
  const remove = (aim: Aim) => plant.edit({ kind: 'set_aim', name: aim.name })

  /** A flow is shown as what it is, by moles or by mass. */
  const plain = (kind: string, si: string) => (kind !== 'flow' ? kind : si === 'kg/s' ? 'mass_flow' : 'mole_flow')
  /** A value in SI as it is shown: in the unit set's unit where its kind is known, in ``like`` where that serves it. */
  function told(si: number | null | undefined, kind: string | null | undefined, unit = '', like = ''): string {
    if (si === null || si === undefined) return '–'
    if (like === '%') return `${numberText(100 * si)} %`
    if (!kind) return `${numberText(si)} ${unitText(unit)}`.trim()
    const of = plain(kind, unit)
    const known = catalogue.data?.kinds[of]?.units.some((u) => u.name === like)
    const shown = known ? like : catalogue.displayUnit(of, plant.unitSet)
    return `${numberText(catalogue.shown(si, of, shown))} ${unitText(shown)}`.trim()
  }
  /** "1 K more changes it by +0.0021", in shown units. */
  function effect(slope: number, kind: string, si: string, value: string | null | undefined): string {
    const of = plain(kind, si)
    const factor = (k: string) =>
      catalogue.data?.kinds[k]?.units.find((u) => u.name === catalogue.displayUnit(k, plant.unitSet))?.factor ?? 1
    const change = (slope * factor(of)) / (value ? factor(value) : 1)
    const more = unitText(catalogue.displayUnit(of, plant.unitSet))
    const unit = value ? unitText(catalogue.displayUnit(value, plant.unitSet)) : ''
    return `${change > 0 ? '+' : ''}${numberText(change, 3)} ${unit} for 1 ${more} more`.replace(/ +/g, ' ')
  }
  const title = (free: { unit: string; field: string }) => {
    const type = catalogue.type(plant.unit(free.unit)?.type ?? '')
    const [, name, row] = /^(\w+)(?:\[(.+)\])?$/.exec(free.field) ?? []
    const field = type?.fields.find((f) => f.key === name)?.title.toLowerCase() ?? free.field
    return `${field}${row ? ` (${row})` : ''} of ${free.unit}`
  }
  /** What an aim makes of a given, by its path. */
  function freedBy(unit: string, field: string): string {
    const found = freed.value.get(`${unit}.${field}`)
    if (!found) return ''
    if (found.state === 'paused') return `starts the paused aim ${found.name}`
    return found.freed == null
      ? `starts the aim ${found.name}`
      : `${told(found.freed, found.freed_kind, found.freed_si)} by the aim ${found.name}`
  }
  return {
    open,
    before,
    asked,
    answer,
    busy: work.busy,
    share: work.share,
    stop: work.stop,
    refusal,
    aims,
    freedBy,
    choice,
    begin,
    propose,
    keep,
    pause,
    remove,
    told,
    effect,
    title,
  }
})

/** How a tag is written in a formula: one that starts with a digit or has a blank or a point in it stands in quotes. */
export function inFormula(tag: string): string {
  return /^[A-Za-z][A-Za-z0-9_/-]*$/.test(tag) ? tag : `"${tag}"`
}
