import { describe, expect, it } from 'vitest'
import type { RateLaw, Reaction } from '../api/client'
import { draftOf, elementary, equationText, lacking, reactionOf, unreadable } from './draft'

const made: Reaction = {
  name: 'R1',
  numbers: { nitrogen: -1, hydrogen: -3, ammonia: 2 },
  phase: 'vapour',
  forward: {
    orders: { nitrogen: 1, ammonia: 0 },
    basis: 'fugacity',
    per: 'volume',
    value: 2.5,
    unit: 'mol/(m3 s Pa)',
    energy: null,
    reference: null,
    table: null,
    power: 0,
    adsorption: [],
    adsorption_power: 1,
  },
  backward: 'thermodynamics',
}

const none = { forward: [], backward: [] }

describe('a reaction while it is typed', () => {
  it('comes back as it was', () => {
    expect(reactionOf(draftOf(made), made.numbers, none)).toEqual(made)
    expect(draftOf(made).text).toBe('nitrogen + 3 hydrogen = 2 ammonia')
  })
  it('keeps an order of 0, and leaves a blank one out', () => {
    const draft = draftOf(made)
    draft.forward.orders.hydrogen = ''
    expect(reactionOf(draft, made.numbers, none).forward).toMatchObject({ orders: { nitrogen: 1, ammonia: 0 } })
  })
  it('goes both ways by its equation, rated or not', () => {
    const draft = draftOf({ ...made, forward: null })
    expect(reactionOf(draft, made.numbers, none)).toEqual({ ...made, forward: null })
  })
  it('says what lacks and what is no number', () => {
    const draft = draftOf(made)
    draft.forward.value = ''
    expect(lacking(draft, none)).toContain('value and a unit')
    draft.forward.orders.nitrogen = 'one'
    expect(unreadable(draft.forward)).toContain('“one”')
  })
  it('keeps terms of a denominator, and expressions with the constants that they speak of', () => {
    const term = { orders: { ammonia: 1 }, value: 0.2, unit: '1/bar', energy: null, reference: null, table: null }
    const hindered = { ...made, forward: { ...(made.forward as RateLaw), adsorption: [term], adsorption_power: 2 } }
    expect(reactionOf(draftOf(hindered), made.numbers, none)).toEqual(hindered)
    const k = { name: 'k', value: 3, unit: '1/s', energy: null, reference: null, table: null }
    const written: Reaction = { ...made, forward: { expression: 'k * c[nitrogen]', per: 'volume', constants: [k] } }
    const draft = draftOf(written)
    draft.forward.constants.old = { value: '1', unit: '', energy: null, reference: null, table: null }
    expect(reactionOf(draft, made.numbers, { forward: ['k'], backward: [] })).toEqual(written)
    expect(lacking(draft, { forward: ['k', 'K'], backward: [] })).toContain('once K has a value')
  })
  it('keeps a table in the place of a value, once it has two rows', () => {
    const rows: [number, number][] = [
      [600, 0.02],
      [650, 0.09],
    ]
    const table = { temperature_unit: 'degC', rows }
    const measured: Reaction = { ...made, forward: { ...(made.forward as RateLaw), value: null, table } }
    const draft = draftOf(measured)
    expect(reactionOf(draft, made.numbers, none)).toEqual(measured)
    draft.forward.table = { ...table, rows: [] }
    expect(lacking(draft, none)).toContain('two temperatures')
    // What was typed before stays and does not count; without the table it is there again.
    draft.forward.value = 'x'
    expect(unreadable(draft.forward)).toBe('')
    draft.forward.table = null
    expect(unreadable(draft.forward)).toContain('“x”')
  })
  it('writes equations both ways and one way', () => {
    expect(equationText({ a: -1, b: 0.5 }, true)).toBe('a -> 0.5 b')
    expect(elementary(made.numbers, -1)).toEqual({ nitrogen: '1', hydrogen: '3' })
  })
})
