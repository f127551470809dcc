/** The next of two plain values, with every part that has not changed being the very object it was before.
 *
 * The server sends whole documents and results. What hangs on one unit or stream is then drawn anew only
 * when that unit or stream has changed.
 */
export function alike<T>(before: unknown, next: T): T {
  if (before === next) return next
  if (Array.isArray(before) && Array.isArray(next)) {
    const parts = next.map((part, k) => alike(before[k], part))
    const same = before.length === parts.length && parts.every((part, k) => part === before[k])
    return (same ? before : parts) as T
  }
  if (!plain(before) || !plain(next)) return next
  const keys = Object.keys(next)
  const parts = Object.fromEntries(keys.map((key) => [key, alike(before[key], next[key])]))
  const same =
    keys.length === Object.keys(before).length && keys.every((key) => key in before && parts[key] === before[key])
  return (same ? before : parts) as T
}
/** A list in the order of ``next`` whose parts are found again by their name, wherever they stood before. */
export function alikeBy<T>(before: readonly T[] | undefined, next: readonly T[], name: (part: T) => string): T[] {
  const known = new Map((before ?? []).map((part) => [name(part), part]))
  const parts = next.map((part) => alike(known.get(name(part)), part))
  const same = before?.length === parts.length && parts.every((part, k) => part === before[k])
  return same ? (before as T[]) : parts
}
const plain = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
