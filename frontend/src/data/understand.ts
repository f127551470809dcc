import { api, sentence, type Quantity } from '../api/client'
import { read } from './cells'

/** What a cell says: a quantity, blank, or the sentence why it is none. */
export type Understood = Quantity | null | { problem: string }
export type CellToRead = { text: string; kind: string; unit: string }
/** Reads cells in their order. Plain numbers are in the unit of their column; arithmetic and units in a cell are read by the server, all at once. */
export async function understand(cells: CellToRead[]): Promise<Understood[]> {
  const found = cells.map(({ text, unit }): Understood | undefined => {
    const value = read(text)
    return typeof value === 'number' ? { value, unit } : value
  })
  const open = [...found.keys()].filter((k) => found[k] === undefined)
  if (!open.length) return found as Understood[]
  const body = {
    cells: open.map((k) => ({ text: cells[k]!.text, kind: cells[k]!.kind, default_unit: cells[k]!.unit })),
  }
  const reply = await api.POST('/api/quantities/parse-cells', { body })
  for (const [n, k] of open.entries()) {
    const answer = reply.data?.[n]
    found[k] = answer?.quantity ?? { problem: answer?.message || sentence(reply.error) }
  }
  return found as Understood[]
}
