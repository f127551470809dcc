import type { AdsorptionTerm, ConstantTable, Law, Quantity, RateLaw, Reaction, WrittenLaw } from '../api/client'

/** A constant as it is typed. */
export interface ConstantDraft {
  value: string
  unit: string
  energy: Quantity | null
  reference: Quantity | null
  /** In its place: what was measured at several temperatures. */
  table: ConstantTable | null
}
/** A term of a denominator as it is typed. */
export interface TermDraft extends ConstantDraft {
  orders: Record<string, string>
}
/** A rate law as it is typed: an order left blank is not in the law, 0 is in it and matters nothing. */
export interface RateDraft extends TermDraft {
  kind: 'powers' | 'expression'
  basis: NonNullable<RateLaw['basis']>
  per: NonNullable<RateLaw['per']>
  power: string
  terms: TermDraft[]
  termsPower: string
  expression: string
  /** By name; those that the expression does not speak of any more are kept until it is left. */
  constants: Record<string, ConstantDraft>
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
export const LAWS = { powers: 'product of powers', expression: 'expression' } as const
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
const texts = (orders: Record<string, number> | undefined) =>
  Object.fromEntries(Object.entries(orders ?? {}).map(([name, order]) => [name, String(order)]))
const isWritten = (law: Law): law is WrittenLaw => 'expression' in law

type Typed = Partial<Pick<AdsorptionTerm, 'value' | 'unit' | 'energy' | 'reference' | 'table'>>
export function constantDraft(of: Typed = {}): ConstantDraft {
  return {
    value: of.value === undefined || of.value === null ? '' : String(of.value),
    unit: of.unit ?? '',
    energy: of.energy ?? null,
    reference: of.reference ?? null,
    table: of.table ?? null,
  }
}
export const termDraft = (term: Partial<AdsorptionTerm> = {}): TermDraft => ({
  ...constantDraft(term),
  orders: texts(term.orders),
})

function rateDraft(law: Law | null | undefined): RateDraft {
  const powers = law && !isWritten(law) ? law : null
  const written = law && isWritten(law) ? law : null
  return {
    ...termDraft(powers ?? {}),
    kind: written ? 'expression' : 'powers',
    basis: powers?.basis ?? 'concentration',
    per: law?.per ?? 'volume',
    power: powers?.power ? String(powers.power) : '',
    terms: (powers?.adsorption ?? []).map(termDraft),
    termsPower: powers && powers.adsorption_power !== 1 ? String(powers.adsorption_power) : '',
    expression: written?.expression ?? '',
    constants: Object.fromEntries((written?.constants ?? []).map((c) => [c.name, constantDraft(c)])),
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
const orders = (of: Record<string, string>) =>
  Object.fromEntries(
    Object.entries(of)
      .filter(([, text]) => isNumber(text))
      .map(([name, text]) => [name, number(text)]),
  )

function wrongNumber(pairs: (readonly [string, string])[]): string {
  const wrong = pairs.find(([, text]) => text.trim() && !isNumber(text))
  return wrong ? `The ${wrong[0]}, “${wrong[1]}”, is no number.` : ''
}
const ordersOf = (of: Record<string, string>) =>
  Object.entries(of).map(([name, text]) => [`order of ${name}`, text] as const)

/** Beside a table nothing that was typed before counts. */
const valueOf = (of: ConstantDraft) => (of.table ? '' : of.value)

/** What is typed and is no number, in words; blank where all of it can be read. */
export function unreadable(law: RateDraft): string {
  if (law.kind === 'expression')
    return wrongNumber(Object.entries(law.constants).map(([name, c]) => [`constant ${name}`, valueOf(c)] as const))
  return wrongNumber([
    ...ordersOf(law.orders),
    ['constant', valueOf(law)],
    ['power of T', law.table ? '' : law.power],
    ...law.terms.flatMap((t, k) => [...ordersOf(t.orders), [`constant K${k + 1}`, valueOf(t)] as const]),
    ['power of the denominator', law.termsPower],
  ])
}

/** Whether there is a value, or a table that makes a curve. */
const isWhole = (of: ConstantDraft) => (of.table ? of.table.rows.length > 1 : isNumber(of.value))
const askedConstant = (of: ConstantDraft) => ({
  value: isNumber(valueOf(of)) ? number(of.value) : null,
  unit: of.unit.trim(),
  energy: of.table ? null : of.energy,
  reference: of.table ? null : of.reference,
  table: isWhole(of) ? of.table : null,
})
/** The law as the server looks at it, whole or not. */
export function asked(law: RateDraft) {
  if (law.kind === 'expression')
    return {
      expression: law.expression,
      per: law.per,
      constants: Object.entries(law.constants).map(([name, c]) => ({ name, ...askedConstant(c) })),
    }
  return {
    ...askedConstant(law),
    orders: orders(law.orders),
    basis: law.basis,
    per: law.per,
    power: isNumber(law.power) && !law.table ? number(law.power) : 0,
    adsorption: law.terms.map((t) => ({ ...askedConstant(t), orders: orders(t.orders) })),
    adsorption_power: isNumber(law.termsPower) ? number(law.termsPower) : 1,
  }
}

/** The law to keep; of an expression with the constants that it speaks of. */
function rate(law: RateDraft, symbols: string[]): Law {
  const found = asked(law)
  if ('expression' in found)
    return {
      expression: law.expression,
      per: law.per,
      constants: found.constants!.filter((c) => symbols.includes(c.name)),
    }
  return found
}

/** What still lacks before the reaction can be kept, in words; `symbols` are the constants of its expressions. */
export function lacking(draft: Draft, symbols: { forward: string[]; backward: string[] }): string {
  if (!draft.rated) return ''
  for (const side of draft.way === 'own law' ? (['forward', 'backward'] as const) : (['forward'] as const)) {
    const law = draft[side]
    const wrong = unreadable(law)
    if (wrong) return wrong
    if (law.kind === 'expression') {
      if (!law.expression.trim()) return 'A rate law is kept once its expression is written.'
      const open = symbols[side].filter((name) => !law.constants[name] || !isWhole(law.constants[name]))
      if (open.length)
        return `A rate law is kept once ${open.join(', ')} ${open.length > 1 ? 'have values' : 'has a value'}.`
      continue
    }
    if (law.table && !isWhole(law))
      return 'A rate law is kept once its constant is measured at two temperatures or more.'
    if (!isWhole(law) || !law.unit.trim()) return 'A rate law is kept once its constant has a value and a unit.'
    if (!law.terms.every((t) => isWhole(t) && Object.keys(orders(t.orders)).length))
      return 'A rate law is kept once every term of its denominator has a component and a constant.'
  }
  return ''
}

/** The reaction to keep, with the numbers that the server read. */
export function reactionOf(
  draft: Draft,
  numbers: Record<string, number>,
  symbols: { forward: string[]; backward: string[] },
): Reaction {
  const own = draft.rated && draft.way === 'own law' ? rate(draft.backward, symbols.backward) : 'thermodynamics'
  const backward = draft.way === 'one way' ? null : own
  const forward = draft.rated ? rate(draft.forward, symbols.forward) : null
  return { name: draft.name, numbers, phase: draft.phase, forward, backward }
}

/** Orders as they are where the reaction happens in one step. */
export function elementary(numbers: Record<string, number>, sign: 1 | -1): Record<string, string> {
  const taken = Object.entries(numbers).filter(([, n]) => sign * n > 0)
  return Object.fromEntries(taken.map(([name, n]) => [name, String(Math.abs(n))]))
}
