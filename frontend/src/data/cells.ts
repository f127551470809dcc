/** Cells of tables that are typed or pasted from a spreadsheet. */

/** Numbers as people write them, a decimal comma included; null for blank, undefined for what is none. */
export function read(text: string): number | null | undefined {
  const plain = text.trim().replace(/\s/g, '')
  if (!plain) return null
  const value = Number(plain.includes('.') ? plain : plain.replace(',', '.'))
  return Number.isFinite(value) ? value : undefined
}

/** The cells of a pasted table, a heading of words left out; null where it is but one cell. */
export function cellsOf(event: ClipboardEvent): string[][] | null {
  const table = tableOf(event)
  return table && (table.headed ? table.cells.slice(1) : table.cells)
}
/** The cells of a pasted table, and whether the first line is a heading of words. */
export function tableOf(event: ClipboardEvent): { cells: string[][]; headed: boolean } | null {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (!/[\t\n]/.test(text.trim())) return null
  const lines = text.replace(/\r/g, '').replace(/\n$/, '').split('\n')
  const cells = lines.map((line) => line.split('\t'))
  return { cells, headed: cells[0]!.every(isHeading) }
}
/** Blank or words: no number, arithmetic or quantity; "2-butanol" is a name. */
function isHeading(cell: string): boolean {
  const text = cell.trim()
  return !/^[=+(.\d-]/.test(text) || /^\d+(,\d+)*-\p{L}/u.test(text)
}
