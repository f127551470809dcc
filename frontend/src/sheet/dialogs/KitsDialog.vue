<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, sentence, type Kit, type Piece } from '../../api/client'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'

/** Reusable pieces of plant: those that ship, those of the project, and what is chosen kept as one more. */
const plant = usePlant()
const catalogue = useCatalogue()
const sheet = useSheet()
const kits = shallowRef<Kit[]>([])
const refusal = ref('')
const name = ref('')
const text = ref('')
const free = ref<string[]>([])
const opened = computed(() => sheet.dialog === 'kits')
const keeping = computed(() => sheet.chosen.length > 0)
const path = computed(() => ({ variant_id: plant.variant?.id ?? 0 }))
/** The givens of what is chosen that have a value: any of them may be left free. */
const givens = computed(() =>
  sheet.chosen.flatMap((tag) => {
    const unit = plant.unit(tag)
    const type = catalogue.type(unit?.type ?? '')
    return (type?.fields ?? [])
      .filter((f) => unit?.spec[f.key] && f.kind !== 'composition' && !f.each)
      .map((f) => ({ key: `${tag}|${f.key}`, tag, title: f.title }))
  }),
)
const pieceOf = (kit: Kit) => kit.piece as unknown as Piece

watch(opened, async (now) => {
  if (!now) return
  refusal.value = name.value = text.value = ''
  free.value = []
  await load()
})
async function load() {
  const reply = await api.GET('/api/variants/{variant_id}/kits', { params: { path: path.value } })
  kits.value = reply.data ?? []
}
async function keep() {
  const chosen = free.value.map((key) => ({ unit: key.split('|')[0]!, field: key.split('|')[1]! }))
  const piece = await sheet.piece(name.value, text.value, chosen)
  if (!piece) return
  const reply = await api.POST('/api/variants/{variant_id}/kits', {
    params: { path: path.value },
    body: { piece: piece as unknown as Record<string, unknown> },
  })
  refusal.value = reply.data ? '' : sentence(reply.error)
  if (reply.data) await load()
}
async function remove(kit: Kit) {
  await api.DELETE('/api/variants/{variant_id}/kits/{kit_id}', {
    params: { path: { ...path.value, kit_id: kit.id ?? 0 } },
  })
  await load()
}
async function place(kit: Kit) {
  sheet.dialog = ''
  await sheet.place(pieceOf(kit))
}
</script>

<template>
  <Dialog :open="opened" class="relative z-50" @close="sheet.dialog = ''">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel class="max-h-[92vh] w-[720px] overflow-auto border border-rule bg-paper p-6 text-ink shadow-xl">
        <div class="mb-3 flex items-center justify-between">
          <DialogTitle class="text-[16px] font-semibold">Kits</DialogTitle>
          <button class="btn" @click="sheet.dialog = ''">Close</button>
        </div>
        <form
          v-if="keeping && plant.editable"
          class="mb-4 border-l-3 border-act bg-actsoft px-3 py-2"
          @submit.prevent="keep"
        >
          <p class="mb-2">
            Keep <b class="tag font-medium">{{ sheet.chosen.join(', ') }}</b> as a kit of this project
          </p>
          <div class="grid grid-cols-[200px_1fr_auto] items-end gap-2">
            <label
              ><span class="block text-ink2">Name</span
              ><input v-model="name" class="input" name="kit-name" maxlength="60" required
            /></label>
            <label
              ><span class="block text-ink2">What it is for</span
              ><input v-model="text" class="input" name="kit-text" maxlength="600"
            /></label>
            <button class="btn btn-main">Keep</button>
          </div>
          <fieldset v-if="givens.length" class="mt-2">
            <legend class="text-ink2">Meant to be changed where it is placed</legend>
            <label v-for="g in givens" :key="g.key" class="mr-4 inline-flex items-center gap-1"
              ><input v-model="free" type="checkbox" :value="g.key" /> <span class="tag">{{ g.tag }}</span>
              {{ g.title.toLowerCase() }}</label
            >
          </fieldset>
          <p v-if="refusal" role="alert" class="mt-2 text-warn">{{ refusal }}</p>
        </form>
        <ul>
          <li
            v-for="kit in kits"
            :key="pieceOf(kit).name + kit.id"
            class="grid grid-cols-[1fr_auto] gap-3 border-b border-rule2 py-2"
          >
            <div>
              <b class="font-medium">{{ pieceOf(kit).name }}</b>
              <span class="ml-2 text-[12px] text-ink2"
                >{{ pieceOf(kit).units.length }} units{{ kit.id ? '' : ', ships with Wattaxis' }}</span
              >
              <p class="text-ink2">{{ pieceOf(kit).text }}</p>
              <p v-if="pieceOf(kit).connections.length" class="text-[12px] text-ink2">
                Connects:
                {{
                  pieceOf(kit)
                    .connections.map((c) => `${c.unit} ${c.port.replace('_', ' ')}`)
                    .join(', ')
                }}
              </p>
              <p v-if="pieceOf(kit).free.length" class="text-[12px] text-ink2">
                To set:
                {{
                  pieceOf(kit)
                    .free.map((f) => `${f.unit} ${f.title.toLowerCase()}`)
                    .join(', ')
                }}
              </p>
            </div>
            <span class="flex items-start gap-2">
              <button v-if="plant.editable" class="btn" :aria-label="`Place ${pieceOf(kit).name}`" @click="place(kit)">
                Place
              </button>
              <button
                v-if="kit.id && plant.editable"
                class="btn"
                :aria-label="`Remove the kit ${pieceOf(kit).name}`"
                @click="remove(kit)"
              >
                Remove
              </button>
            </span>
          </li>
        </ul>
      </DialogPanel>
    </div>
  </Dialog>
</template>
