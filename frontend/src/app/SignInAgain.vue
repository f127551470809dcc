<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { ref } from 'vue'
import { useSession } from '../stores/session'
import MessageLine from './MessageLine.vue'
import SignInFields from './SignInFields.vue'

/** Over whatever page is open when a sign-in has ended: what was under way goes on afterwards. */
const session = useSession()
const message = ref('')
const busy = ref(false)

async function submit(password: string, code: string) {
  busy.value = true
  message.value = await session.signInAgain(password, code)
  busy.value = false
}
</script>

<template>
  <Dialog :open="session.ended" class="relative z-[60]" @close="session.leave()">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel class="w-[360px] border border-rule bg-paper p-6 text-ink shadow-xl">
        <DialogTitle class="mb-2 text-[16px] font-semibold">Sign in again</DialogTitle>
        <p class="mb-4 text-ink2">
          Your sign-in has ended. What you typed is kept and goes on when you have signed in as
          {{ session.person?.username }}.
        </p>
        <SignInFields :busy="busy" :code="session.codeWanted" @submit="submit">
          <button type="button" class="btn" @click="session.leave()">Later</button>
        </SignInFields>
        <MessageLine class="mt-3" :text="message" />
      </DialogPanel>
    </div>
  </Dialog>
</template>
