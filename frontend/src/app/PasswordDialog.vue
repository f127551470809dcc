<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { ref } from 'vue'
import { api, sentence } from '../api/client'
import MessageLine from './MessageLine.vue'

const open = defineModel<boolean>('open', { required: true })
const old = ref('')
const next = ref('')
const message = ref('')
const done = ref(false)

async function submit() {
  const answer = await api.POST('/api/password', { body: { old: old.value, new: next.value } })
  done.value = !!answer.data
  message.value = answer.data?.message ?? sentence(answer.error)
  if (done.value) old.value = next.value = ''
}
</script>

<template>
  <Dialog :open="open" class="relative z-50" @close="open = false">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel class="w-[360px] border border-rule bg-paper p-6 text-ink shadow-xl">
        <DialogTitle class="mb-3 text-[16px] font-semibold">Change the password</DialogTitle>
        <form class="space-y-3" @submit.prevent="submit">
          <label class="block">
            <span class="mb-1 block text-ink2">Current password</span>
            <input v-model="old" class="input" name="old" type="password" autocomplete="current-password" required />
          </label>
          <label class="block">
            <span class="mb-1 block text-ink2">New password, at least 12 characters</span>
            <input v-model="next" class="input" name="new" type="password" autocomplete="new-password" required />
          </label>
          <div class="flex gap-2">
            <button class="btn btn-main">Change</button>
            <button type="button" class="btn" @click="open = false">Close</button>
          </div>
        </form>
        <MessageLine class="mt-3" :text="message" :good="done" />
      </DialogPanel>
    </div>
  </Dialog>
</template>
