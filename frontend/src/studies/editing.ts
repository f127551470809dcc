import { ref, type Ref } from 'vue'
import { api, type Quantity, type Schemas } from '../api/client'
import { unitText } from '../quantities/format'
import { usePlant } from '../stores/plant'

export type Study = Schemas['Study']
/** What a study varies: a given, a number of the chemistry, or all that a fit found. */
export type Item = NonNullable<Study['inputs']>[number]
export type Input = Exclude<Item, { fit: string }>
export type Limit = NonNullable<Study['limits']>[number]
export type Objective = NonNullable<Study['objectives']>[number]
export type Known = Schemas['FormulaOut']
/** An edit of a study: what of it becomes something else. Answers why it is refused, blank where it is taken. */
export type Change = (make: (study: Study) => Partial<Study>) => Promise<string>

export const without = <T>(list: T[] | undefined, at: number) => list?.filter((_, k) => k !== at)
export const withPart = <T>(list: T[] | undefined, at: number, part: Partial<T>) =>
  list?.map((one, k) => (k === at ? { ...one, ...part } : one))
export const whole = (event: Event) => Math.round(Number((event.target as HTMLInputElement).value))
export const chosen = (event: Event) => (event.target as HTMLSelectElement).value

/** Edits of a study, one after the other, each from what the one before left: two fields may be typed faster than the server answers. */
export function useEdits(study: () => Study): {
  change: Change
  settled: () => Promise<string>
  now: () => Study
  message: Ref<string>
} {
  const plant = usePlant()
  const message = ref('')
  let before: Promise<string> = Promise.resolve('')
  /** The study as it stands on the page now, which may be newer than what is drawn. */
  const now = () => plant.document?.studies?.find((s) => s.name === study().name) ?? study()
  const change: Change = (make) => {
    before = before.then(async () => {
      const one = now()
      const edit = { kind: 'set_study', name: one.name, study: { ...one, ...make(one) } as never } as const
      return (message.value = await plant.edit(edit))
    })
    return before
  }
  return { change, settled: () => before, now, message }
}

/** Values typed or pasted one after the other, or the sentence that says which of them is none. */
export async function valuesIn(text: string, kind: string, unit: string): Promise<Quantity[] | string> {
  const values: Quantity[] = []
  const parts = text.split(/[;\n\t]+/).map((part) => part.trim())
  for (const part of parts.filter(Boolean)) {
    const plain = part.replace(/°/g, 'deg').replace(/³/g, '3')
    const read = await api.POST('/api/quantities/parse', { body: { text: plain, kind, default_unit: unit } })
    if (!read.data) return 'The values could not be read; the server does not answer.'
    if (!read.data.quantity) return `${part}: ${unitText(read.data.message)}`
    values.push(read.data.quantity)
  }
  return values
}
