import { shallowReactive } from 'vue'

/** Tables that are saved whole, by name. What was typed last is what the next cell is put into, while earlier cells are still on their way.
 *
 * ``store`` saves one and tells why it was refused, nothing where it is saved, null where it waits for more. What is not saved stays to be seen
 * and corrected.
 */
export function useDrafts<T>(store: (name: string, next: T, newest: () => boolean) => Promise<string | null>) {
  const drafts = shallowReactive(new Map<string, T>())
  let line: Promise<unknown> = Promise.resolve()
  function save(name: string, next: T): Promise<string> {
    drafts.set(name, next)
    const newest = () => drafts.get(name) === next
    const saved = line.then(async () => {
      // What came after holds it, and is saved in its turn.
      if (!newest()) return ''
      const refusal = await store(name, next, newest)
      if (refusal === '' && newest()) drafts.delete(name)
      return refusal ?? ''
    })
    line = saved.catch(() => '')
    return saved
  }
  /** When everything that was typed so far is saved, refused or waits. */
  const settled = () => line
  return {
    settled,
    get: (name: string) => drafts.get(name),
    save,
    drop: (name: string) => drafts.delete(name),
    clear: () => drafts.clear(),
  }
}
