import { useElementSize } from '@vueuse/core'
import { computed, ref, type Ref } from 'vue'

/** Width of a column of a wide table, and of what stands before the columns. */
export const COLUMN = 84
const HEAD = 240
/** Columns from which on only those in sight are drawn, and how many more on either side. */
const MANY = 40
const AROUND = 6

/** Which columns of a wide table are in sight; the rest is empty room. */
export function useColumns(box: Ref<HTMLElement | null>, count: Ref<number>) {
  const { width } = useElementSize(box)
  const left = ref(0)
  const some = computed(() => count.value > MANY)
  const first = computed(() => {
    const last = Math.max(0, count.value - Math.ceil(width.value / COLUMN))
    return some.value ? Math.max(0, Math.min(Math.floor(left.value / COLUMN) - AROUND, last)) : 0
  })
  const end = computed(() => {
    if (!some.value) return count.value
    return Math.min(count.value, Math.ceil((left.value + width.value) / COLUMN) + AROUND)
  })
  return {
    some,
    first,
    before: computed(() => first.value * COLUMN),
    after: computed(() => (count.value - end.value) * COLUMN),
    whole: computed(() => HEAD + count.value * COLUMN),
    shown: <T>(all: T[]) => all.slice(first.value, end.value),
    look: () => (left.value = box.value?.scrollLeft ?? 0),
  }
}
