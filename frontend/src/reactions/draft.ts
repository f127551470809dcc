import type { Quantity, RateLaw, Reaction } from '../api/client'

/** A rate law as it is typed: an order left blank is not in the law, 0 is in it and matters nothing. */
export interface RateDraft {
  orders: Record<string, string>
  basis: RateLaw['basis']
  per: RateLaw['per']
  value: string
  unit: string
  energy: Quantity | null
  reference: Quantity | null
  power: string
}
export type Way = 'one way' | 'thermodynamics' | 'own law'
/** A reaction as it is typed. */
export interface Draft {
  name: string
  text: string
  phase: NonNullable<Reaction['phase']>
  rated: boolean
  way: Way
  forward: RateDraft
  backward: RateDraft
}

export const BASES = ['concentration', 'partial pressure', 'fugacity', 'mole fraction', 'activity'] as const
export const PERS = { volume: 'volume', 'catalyst mass': 'mass of catalyst' } as const
const side = (numbers: Record<string, number>, sign: number) =>
  Object.entries(numbers)
    .filter(([, n]) => sign * n > 0)
    .map(([name, n]) => (Math.abs(n) === 1 ? name : `${Number(Math.abs(n).toPrecision(10))} ${name}`))
    .join(' + ')

/** The equation of stoichiometric numbers, as the server reads it. */
export function equationText(numbers: Record<string, number>, oneWay: boolean): string {
  return `${side(numbers, -1)} ${oneWay ? '->' : '='} ${side(numbers, 1)}`
}
const number = (text: string) => Number(text.trim().replace(',', '.'))
const isNumber = (text: string) => text.trim() !== '' && Number.isFinite(number(text))

function rateDraft(law: RateLaw | null | undefined): RateDraft {
  return {
    orders: Object.fromEntries(Object.entries(law?.orders ?? {}).map(([name, order]) => [name, String(order)])),
    basis: law?.basis ?? 'concentration',
    per: law?.per ?? 'volume',
    value: law ? String(law.value) : '',
    unit: law?.unit ?? '',
    energy: law?.energy ?? null,
    reference: law?.reference ?? null,
    power: law?.power ? String(law.power) : '',
  }
}

export function draftOf(reaction: Reaction): Draft {
  const own = typeof reaction.backward === 'object' ? reaction.backward : null
  const way = own ? 'own law' : reaction.backward === 'thermodynamics' ? 'thermodynamics' : 'one way'
  return {
    name: reaction.name,
    text: equationText(reaction.numbers, way === 'one way'),
    phase: reaction.phase ?? 'vapour',
    rated: !!reaction.forward,
    way,
    forward: rateDraft(reaction.forward),
    backward: rateDraft(own),
  }
}

/** The orders that can be read; what cannot is told by `unreadable`. */
const orders = (law: RateDraft) =>
  Object.fromEntries(
    Object.entries(law.orders)
      .filter(([, text]) => isNumber(text))
      .map(([name, text]) => [name, number(text)]),
  )

/** What is typed and is no number, in words; blank where all of it can be read. */
export function unreadable(law: RateDraft): string {
  for (const [name, text] of Object.entries(law.orders))
    if (text.trim() && !isNumber(text)) return `The order of ${name}, “${text}”, is no number.`
  for (const [what, text] of [
    ['constant', law.value],
    ['power of T', law.power],
  ] as const)
    if (text.trim() && !isNumber(text)) return `The ${what}, “${text}”, is no number.`
  return ''
}

/** The law as the server looks at it, whole or not. */
export function asked(law: RateDraft) {
  return {
    orders: orders(law),
    basis: law.basis,
    per: law.per,
    value: isNumber(law.value) ? number(law.value) : null,
    unit: law.unit.trim(),
    energy: law.energy,
    reference: law.reference,
    power: isNumber(law.power) ? number(law.power) : 0,
  }
}

function rate(law: RateDraft): RateLaw {
  const found = asked(law)
  return { ...found, value: found.value ?? 0 }
}
const whole = (law: RateDraft) => isNumber(law.value) && law.unit.trim() !== ''

/** What still lacks before the reaction can be kept, in words. */
export function lacking(draft: Draft): string {
  if (!draft.rated) return ''
  const laws = draft.way === 'own law' ? [draft.forward, draft.backward] : [draft.forward]
  const wrong = laws.map(unreadable).find(Boolean)
  if (wrong) return wrong
  return laws.every(whole) ? '' : 'A rate law is kept once its constant has a value and a unit.'
}

/** The reaction to keep, with the numbers that the server read. */
export function reactionOf(draft: Draft, numbers: Record<string, number>): Reaction {
  const own = draft.rated && draft.way === 'own law' ? rate(draft.backward) : 'thermodynamics'
  const backward = draft.way === 'one way' ? null : own
  return { name: draft.name, numbers, phase: draft.phase, forward: draft.rated ? rate(draft.forward) : null, backward }
}

/** Orders as they are where the reaction happens in one step. */
export function elementary(numbers: Record<string, number>, sign: 1 | -1): Record<string, string> {
  const taken = Object.entries(numbers).filter(([, n]) => sign * n > 0)
  return Object.fromEntries(taken.map(([name, n]) => [name, String(Math.abs(n))]))
}
