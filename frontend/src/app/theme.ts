import { usePreferredDark, useStorage } from '@vueuse/core'
import { computed, watchEffect } from 'vue'

const chosen = useStorage<'light' | 'dark' | 'system'>('wattaxis-theme', 'system')

/** Light, dark, or as the system has it; kept in this browser. */
export function useTheme() {
  const preferred = usePreferredDark()
  const dark = computed(() => chosen.value === 'dark' || (chosen.value === 'system' && preferred.value))
  watchEffect(() => window.document.documentElement.classList.toggle('dark', dark.value))
  const toggle = () => (chosen.value = dark.value ? 'light' : 'dark')
  return { dark, toggle }
}
