import type { Law, Reaction, ReactionSet, Schemas } from '../api/client'

/** A number of a rate law that a fit may free. */
export type RateRow = Schemas['FreeRatePart'] & { label: string; free: boolean; now: string }

const side = (reaction: Reaction, backward: boolean): Law | null => {
  const law = backward ? reaction.backward : reaction.forward
  return law && typeof law === 'object' ? law : null
}
const energyNow = (of: { energy?: { value: number; unit?: string } | null }) =>
  of.energy ? `${of.energy.value} ${of.energy.unit}` : '–'

function rowsOf(reaction: Reaction, backward: boolean, hot: boolean): RateRow[] {
  const law = side(reaction, backward)
  if (!law) return []
  const base = { reaction: reaction.name, backward, component: '' }
  const of = `${reaction.name}${backward ? ', backward' : ''}`
  const constants =
    'expression' in law
      ? (law.constants ?? []).map((c) => ({ ...c, title: c.name }))
      : [{ ...law, title: 'k' }, ...(law.adsorption ?? []).map((term, k) => ({ ...term, title: `K${k + 1}` }))]
  // Of a constant that was measured at several temperatures nothing is fitted.
  const fitted = constants.filter((c) => !c.table)
  const rows = fitted.flatMap((c) => [
    {
      ...base,
      part: 'constant' as const,
      constant: c.title,
      label: `${c.title} of ${of}`,
      free: true,
      now: `${c.value} ${c.unit ?? ''}`,
    },
    {
      ...base,
      part: 'energy' as const,
      constant: c.title,
      label: `E of ${c.title} of ${of}`,
      free: hot && c.title === 'k',
      now: energyNow(c),
    },
  ])
  const orders = 'expression' in law ? {} : law.orders
  const ordered = Object.entries(orders).map(([component, order]) => ({
    ...base,
    part: 'order' as const,
    constant: 'k',
    component,
    label: `order of ${component} in ${of}`,
    free: false,
    now: String(order),
  }))
  return [...rows, ...ordered]
}

/** Every number of the laws of a set; constants are free, and energies where the data are `hot`: at several temperatures. */
export function rateRows(set: ReactionSet | undefined, hot: boolean): RateRow[] {
  return (set?.reactions ?? []).flatMap((r) => [...rowsOf(r, false, hot), ...rowsOf(r, true, hot)])
}
export const rowKey = (r: RateRow) => [r.reaction, r.backward, r.part, r.constant, r.component].join('|')
