/** A cell of a table to take away: blank where there is nothing. */
export type Cell = string | number | null

export function download(content: string, type: string, name: string) {
  const link = document.createElement('a')
  const data = content.startsWith('data:') ? content : URL.createObjectURL(new Blob([content], { type }))
  link.href = data
  link.download = name
  link.click()
}
/** A name that begins like a formula is none to a spreadsheet. */
const plain = (text: string) => (/^[=+\-@\t\r]/.test(text) ? `'${text}` : text)
const quoted = (text: string) => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)
/** A table as text; between commas as spreadsheets read it. */
export function tableText(rows: Cell[][], between: ',' | '\t'): string {
  const cell = (v: Cell) => (typeof v === 'string' && between === ',' ? quoted(plain(v)) : String(v ?? ''))
  return rows.map((row) => row.map(cell).join(between)).join('\n') + '\n'
}
export const downloadCsv = (rows: Cell[][], name: string) =>
  download('\ufeff' + tableText(rows, ','), 'text/csv;charset=utf-8', `${name}.csv`)
