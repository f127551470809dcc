/** One step of a JSON Patch (RFC 6902), of the three kinds that the server sends. */
export interface PatchStep {
  op: 'add' | 'remove' | 'replace'
  path: string
  value?: unknown
}

/** The value after the steps. The one before stays as it is; what no step touches is the very same object in both. */
export function patched<T>(before: T, steps: readonly PatchStep[]): T {
  const fresh = new Set<object>()
  return steps.reduce<unknown>(
    (value, step) => (step.path === '' ? step.value : changed(value, keys(step.path), step, fresh)),
    before,
  ) as T
}

const keys = (path: string) =>
  path
    .slice(1)
    .split('/')
    .map((key) => key.replaceAll('~1', '/').replaceAll('~0', '~'))

function changed(value: unknown, path: string[], step: PatchStep, fresh: Set<object>): unknown {
  const [key, ...rest] = path as [string, ...string[]]
  const copy = own(value, fresh)
  if (Array.isArray(copy)) {
    const place = Number(key)
    if (rest.length) copy[place] = changed(copy[place], rest, step, fresh)
    else if (step.op === 'replace') copy[place] = step.value
    else copy.splice(place, step.op === 'remove' ? 1 : 0, ...(step.op === 'add' ? [step.value] : []))
  } else if (rest.length) copy[key] = changed(copy[key], rest, step, fresh)
  else if (step.op === 'remove') delete copy[key]
  else copy[key] = step.value
  return copy
}

/** A copy that belongs to this patch; made once however many steps lead through it. */
function own(value: unknown, fresh: Set<object>): unknown[] | Record<string, unknown> {
  if (typeof value !== 'object' || value === null)
    throw new Error('The patch leads through something that holds nothing.')
  if (fresh.has(value)) return value as unknown[]
  const copy = Array.isArray(value) ? [...value] : { ...value }
  fresh.add(copy)
  return copy as unknown[]
}
