<script setup lang="ts">
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/vue'
import { useDebounceFn } from '@vueuse/core'
import { ref } from 'vue'
import { api, type BankComponent } from '../api/client'
import { usePlant } from '../stores/plant'

const plant = usePlant()
const query = ref('')
const found = ref<BankComponent[]>([])
const nothing = ref(false)

const search = useDebounceFn(async () => {
  const text = query.value.trim()
  if (!text) {
    found.value = []
    nothing.value = false
    return
  }
  const answer = await api.GET('/api/components', { params: { query: { q: text, limit: 12 } } })
  if (text !== query.value.trim()) return
  found.value = answer.data ?? []
  nothing.value = !found.value.length
}, 90)

function typed(event: Event) {
  query.value = (event.target as HTMLInputElement).value
  void search()
}
async function take(item: BankComponent | null) {
  if (!item) return
  // Cleared at once: the next name may be typed before the server has answered.
  query.value = ''
  found.value = []
  await plant.edit({ kind: 'add_component', component: { id: item.name, cas: item.cas } })
}
const has = (cas: string) => plant.document?.chemistry.components?.some((c) => c.cas === cas) ?? false
</script>

<template>
  <Combobox :model-value="null" nullable @update:model-value="take">
    <div class="relative">
      <ComboboxInput
        class="input"
        placeholder="Name, formula or CAS"
        aria-label="Find a component"
        autocomplete="off"
        :display-value="() => query"
        @change="typed"
        @keydown.esc="found = []"
      />
      <ComboboxOptions
        v-if="found.length"
        static
        class="absolute z-20 mt-1 max-h-[420px] w-full overflow-auto border border-rule bg-paper shadow-lg"
      >
        <ComboboxOption
          v-for="c in found"
          :key="c.cas"
          v-slot="{ active }"
          :value="c"
          :disabled="has(c.cas)"
          as="template"
        >
          <li
            class="cursor-pointer border-b border-rule2 px-2 py-[5px]"
            :class="active ? 'bg-actsoft' : has(c.cas) ? 'text-ink3' : ''"
          >
            <span class="flex justify-between gap-2">
              <b class="font-medium">{{ c.name }}</b><span class="whitespace-nowrap text-ink2">{{ c.cas }}</span>
            </span>
            <span class="block truncate text-[11.5px] text-ink2">
              {{ c.formula }}, {{ has(c.cas) ? 'already among the components' : c.synonyms.slice(0, 3).join(', ') }}
            </span>
          </li>
        </ComboboxOption>
      </ComboboxOptions>
      <p v-if="nothing" class="mt-1 text-ink2" role="status">
        Nothing in the bank fits “{{ query }}”. Try the formula or the CAS number.
      </p>
    </div>
  </Combobox>
</template>
