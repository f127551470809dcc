<script setup lang="ts">
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/vue'
import { useDebounceFn } from '@vueuse/core'
import { ref } from 'vue'
import { api, sentence, type BankComponent } from '../api/client'
import { usePlant } from '../stores/plant'

const plant = usePlant()
const query = ref('')
const found = ref<BankComponent[]>([])
const nothing = ref(false)
const told = ref('')
type Named = Pick<BankComponent, 'name' | 'cas' | 'solid'>
const missing = ref<{ asked: string; near: Named[] }[]>([])

/** The text that the list answers, whether Enter waits for a list, and whether somebody went down it. */
let answered = ''
let waits = false
let moved = false

async function look() {
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
  answered = text
  if (waits) await take(first())
}
const search = useDebounceFn(look, 90)
const first = () => found.value.find((c) => !has(c)) ?? null

function typed(event: Event) {
  query.value = (event.target as HTMLInputElement).value
  told.value = ''
  waits = moved = false
  void search()
}
/** Enter takes what is marked, or the first; where the list has not come yet, as soon as it has. */
async function enter(active: BankComponent | null) {
  if (!query.value.trim()) return
  if (answered === query.value.trim()) await take((moved && active) || first())
  else {
    waits = true
    await look()
  }
}
function leave(event: KeyboardEvent) {
  query.value = answered = ''
  found.value = []
  nothing.value = waits = false
  ;(event.target as HTMLInputElement).blur()
}
/** As the document keeps it: a conventional solid says so, and does not take the name of a fluid. */
function entry(item: Named) {
  if (!item.solid) return { id: item.name, cas: item.cas }
  const taken = plant.document?.chemistry.components?.some((c) => c.id === item.name)
  return { id: taken ? `${item.name} (solid)` : item.name, cas: item.cas, solid: true as const }
}
async function take(item: Named | null) {
  if (!item) return
  // Cleared at once: the next name may be typed before the server has answered.
  query.value = answered = ''
  found.value = []
  waits = false
  await plant.edit({ kind: 'add_component', component: entry(item) })
}
/** A list from a spreadsheet: everything that is known goes in as one edit, the rest is reported with what comes nearest. */
async function paste(event: ClipboardEvent) {
  const names = (event.clipboardData?.getData('text/plain') ?? '').split(/[\n\t;]+/).map((n) => n.trim())
  if (names.filter(Boolean).length < 2) return
  event.preventDefault()
  missing.value = []
  const reply = await api.POST('/api/components/find', { body: { names } })
  if (!reply.data) {
    told.value = sentence(reply.error)
    return
  }
  const fresh = reply.data.found.filter((c) => !has(c))
  const edits = [...new Map(fresh.map((c) => [c.cas, c])).values()].map((c) => ({
    kind: 'add_component' as const,
    component: entry(c),
  }))
  if (edits.length) await plant.edit({ kind: 'batch', edits, label: `added ${edits.length} components` })
  missing.value = reply.data.missing
  told.value = `${edits.length} added, ${reply.data.found.length - edits.length} were there already.`
}
const has = (item: Named) =>
  plant.document?.chemistry.components?.some((c) => c.cas === item.cas && !!c.solid === item.solid) ?? false
</script>

<template>
  <Combobox v-slot="{ activeOption }" :model-value="null" nullable @update:model-value="take">
    <div class="relative">
      <ComboboxInput
        class="input"
        placeholder="Name, formula or CAS; or paste a list"
        aria-label="Find a component"
        autocomplete="off"
        :display-value="() => query"
        @change="typed"
        @keydown.esc.stop="leave"
        @keydown.down.up="moved = true"
        @keydown.enter.capture.prevent.stop="enter(activeOption)"
        @paste="paste"
      />
      <ComboboxOptions
        v-if="found.length"
        static
        class="absolute z-20 mt-1 max-h-[420px] w-full overflow-auto border border-rule bg-paper shadow-lg"
      >
        <ComboboxOption
          v-for="c in found"
          :key="c.cas + c.solid"
          v-slot="{ active }"
          :value="c"
          :disabled="has(c)"
          as="template"
        >
          <li
            class="cursor-pointer border-b border-rule2 px-2 py-[5px]"
            :class="active ? 'bg-actsoft' : has(c) ? 'text-ink3' : ''"
          >
            <span class="flex justify-between gap-2">
              <b class="font-medium">{{ c.name }}</b><span class="whitespace-nowrap text-ink2"
                >{{ c.solid ? 'solid, ' : '' }}{{ c.cas }}</span
              >
            </span>
            <span class="block truncate text-[11.5px] text-ink2">
              {{ c.formula }}, {{ has(c) ? 'already among the components' : c.synonyms.slice(0, 3).join(', ') }}
            </span>
          </li>
        </ComboboxOption>
      </ComboboxOptions>
      <p v-if="nothing" class="mt-1 text-ink2" role="status">
        Nothing in the bank fits “{{ query }}”. Try the formula or the CAS number.
      </p>
      <div v-if="told" role="status" class="mt-1 text-[12px] text-ink2">
        {{ told }}
        <ul v-if="missing.length" class="mt-1 border-l-2 border-warn bg-warnsoft px-2 py-1 text-ink">
          <li v-for="m in missing" :key="m.asked">
            “{{ m.asked }}” is not in the bank.
            <template v-if="m.near.length">
              Nearest:
              <button v-for="n in m.near" :key="n.cas" class="link mr-2" @click="take(n)">
                {{ n.name }}
              </button>
            </template>
          </li>
        </ul>
      </div>
    </div>
  </Combobox>
</template>
