<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, ref, watch } from 'vue'
import { api, sentence, type Project } from '../api/client'
import MessageLine from './MessageLine.vue'

type Short = Project['variants'][number]
/** Name, archive, deletion and share links of one variant. */
const props = defineProps<{ project: Project | null; variant: Short | null }>()
const emit = defineEmits<{ close: []; changed: []; deleted: [variant: Short] }>()
const name = ref('')
const message = ref('')
const links = ref<{ id: number; address: string; created: string; author: string }[]>([])
const path = computed(() => ({ path: { variant_id: props.variant?.id ?? 0 } }))
const owner = computed(() => props.project?.role === 'owner')

watch(
  () => props.variant,
  async (variant) => {
    name.value = variant?.name ?? ''
    message.value = ''
    links.value = []
    if (!variant || !owner.value) return
    const answer = await api.GET('/api/variants/{variant_id}/links', { params: path.value })
    links.value = answer.data ?? []
  },
)
async function change(body: { name?: string; archived?: boolean }) {
  const answer = await api.PATCH('/api/variants/{variant_id}', { params: path.value, body })
  message.value = answer.data ? '' : sentence(answer.error)
  if (!answer.data) return
  emit('changed')
  emit('close')
}
async function remove() {
  const answer = await api.DELETE('/api/variants/{variant_id}', { params: path.value })
  message.value = answer.data ? '' : sentence(answer.error)
  if (answer.data && props.variant) emit('deleted', props.variant)
}
async function share() {
  const answer = await api.POST('/api/variants/{variant_id}/links', { params: path.value })
  message.value = answer.data ? '' : sentence(answer.error)
  if (answer.data) links.value = [answer.data, ...links.value]
}
async function withdraw(id: number) {
  const params = { path: { ...path.value.path, link_id: id } }
  const answer = await api.DELETE('/api/variants/{variant_id}/links/{link_id}', { params })
  message.value = answer.data ? '' : sentence(answer.error)
  if (answer.data) links.value = links.value.filter((l) => l.id !== id)
}
</script>

<template>
  <Dialog :open="!!variant" class="relative z-50" @close="emit('close')">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel class="w-[560px] border border-rule bg-paper p-6 text-ink shadow-xl">
        <div class="mb-4 flex items-center justify-between">
          <DialogTitle class="text-[16px] font-semibold">{{ project?.name }} / {{ variant?.name }}</DialogTitle>
          <button class="btn" @click="emit('close')">Close</button>
        </div>
        <MessageLine class="mb-3" :text="message" />
        <form class="mb-5 flex items-end gap-2" @submit.prevent="change({ name })">
          <label class="flex-1">
            <span class="mb-1 block text-ink2">Name of the variant</span>
            <input v-model="name" class="input" name="rename-variant" maxlength="120" />
          </label>
          <button class="btn">Rename</button>
        </form>
        <template v-if="owner">
          <h3 class="head mb-1">Links for reading</h3>
          <p class="mb-2 text-ink2">
            Whoever holds a link can look at this variant without an account, and change nothing.
          </p>
          <ul class="mb-2">
            <li v-for="l in links" :key="l.id" class="flex items-center gap-2 border-b border-rule2 py-1">
              <input
                class="input flex-1"
                readonly
                :value="l.address"
                aria-label="Address of the link"
                @focus="($event.target as HTMLInputElement).select()"
              />
              <button class="btn py-[2px]!" @click="withdraw(l.id)">Withdraw</button>
            </li>
          </ul>
          <button class="btn mb-5" @click="share">Make a link</button>
        </template>
        <div class="flex gap-2 border-t border-rule pt-3">
          <button class="btn" @click="change({ archived: !variant?.archived })">
            {{ variant?.archived ? 'Restore from the archive' : 'Archive' }}
          </button>
          <button class="btn ml-auto" @click="remove">Delete variant</button>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
