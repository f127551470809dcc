import type { DataKind } from '../api/client'

/** Whether a column of a data set is this one of its kind: "x2" is one of "x#", "c2" one of "c*". */
export function isColumn(known: string, key: string): boolean {
  return known === key || (/[#*]$/.test(known) && known.slice(0, -1) === key.slice(0, -1) && /\d$/.test(key))
}
/** The columns that a kind of data may have for so many components, each with what it is. */
export function columnsOf(kind: DataKind | undefined, components: number) {
  return (kind?.columns ?? []).flatMap((column) => {
    const many = { '#': components - 1, '*': components }[column.key.slice(-1)]
    const stem = column.key.slice(0, -1)
    const keys = many === undefined ? [column.key] : Array.from({ length: many }, (_, k) => `${stem}${k + 1}`)
    return keys.map((key) => ({ key, column }))
  })
}
