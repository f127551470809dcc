import { shallowReactive } from 'vue'

/** A thing that can be done, found in the palette by typing. */
export interface Command {
  id: string
  title: string
  group: string
  /** Other words by which it is looked for. */
  also?: string[]
  keys?: string
  run: () => unknown
}

/** Pages register their commands here while they are open. */
const providers = shallowReactive(new Set<() => Command[]>())

export function provideCommands(provider: () => Command[]): () => void {
  providers.add(provider)
  return () => providers.delete(provider)
}

export function allCommands(): Command[] {
  return [...providers].flatMap((provider) => provider())
}

/** Whether a key press belongs to a field and not to the page. */
export function inField(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null
  return !!target?.closest('input, textarea, select, [contenteditable], [role=dialog]')
}
