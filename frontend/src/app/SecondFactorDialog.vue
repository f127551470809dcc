<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { ref, watch } from 'vue'
import { api, sentence } from '../api/client'
import MessageLine from './MessageLine.vue'

/** Codes from the person's own device beside the password: set up, confirmed, removed. */
const open = defineModel<boolean>('open', { required: true })
const state = ref<{ active: boolean; left: number } | null>(null)
const begun = ref<{ secret: string; address: string; picture: string } | null>(null)
const codes = ref<string[]>([])
const password = ref('')
const code = ref('')
const message = ref('')
const done = ref(false)

watch(open, async (now) => {
  if (!now) return
  begun.value = null
  codes.value = []
  say('')
  await load()
})
function say(text: string, good = false) {
  message.value = text
  done.value = good
  password.value = code.value = ''
}
async function load() {
  state.value = (await api.GET('/api/second-factor')).data ?? null
}
async function begin() {
  const answer = await api.POST('/api/second-factor', { body: { password: password.value } })
  begun.value = answer.data ?? null
  say(answer.data ? '' : sentence(answer.error))
}
async function confirm() {
  const answer = await api.POST('/api/second-factor/confirm', { body: { code: code.value } })
  say(answer.data ? '' : sentence(answer.error))
  if (!answer.data) return
  codes.value = answer.data.codes
  begun.value = null
  await load()
}
async function remove() {
  const answer = await api.POST('/api/second-factor/remove', { body: { password: password.value } })
  say(answer.data?.message ?? sentence(answer.error), !!answer.data)
  codes.value = []
  await load()
}
</script>

<template>
  <Dialog :open="open" class="relative z-50" @close="open = false">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel class="w-[420px] border border-rule bg-paper p-6 text-ink shadow-xl">
        <DialogTitle class="mb-3 text-[16px] font-semibold">Second factor</DialogTitle>
        <div v-if="codes.length" class="mb-4">
          <p class="mb-2">
            Signing in now asks for a code. Each of these recovery codes replaces the device once. They are shown only
            now: print them or write them down.
          </p>
          <ul class="mb-2 grid grid-cols-2 gap-1 border border-rule p-3 font-mono" aria-label="Recovery codes">
            <li v-for="c in codes" :key="c">{{ c }}</li>
          </ul>
        </div>
        <form v-else-if="begun" class="mb-4 space-y-3" @submit.prevent="confirm">
          <p>
            Scan the picture with an authenticator app, or type the secret into it. Then type the code that it shows.
          </p>
          <img :src="begun.picture" alt="The secret as a QR code" class="mx-auto h-44 w-44 bg-white" />
          <p class="text-center font-mono break-all" data-test="secret">{{ begun.secret }}</p>
          <label class="block">
            <span class="mb-1 block text-ink2">Code</span>
            <input v-model="code" class="input" name="code" autocomplete="one-time-code" inputmode="numeric" required />
          </label>
          <button class="btn btn-main">Confirm</button>
        </form>
        <form v-else-if="state" class="mb-4 space-y-3" @submit.prevent="state.active ? remove() : begin()">
          <p v-if="state.active">
            Signing in asks for a code from your device. {{ state.left }} recovery codes are left.
          </p>
          <p v-else>Besides the password, signing in can ask for a code that an app on your own device shows.</p>
          <label class="block">
            <span class="mb-1 block text-ink2">Current password</span>
            <input
              v-model="password"
              class="input"
              name="again"
              type="password"
              autocomplete="current-password"
              required
            />
          </label>
          <button class="btn btn-main">{{ state.active ? 'Remove' : 'Set up' }}</button>
        </form>
        <MessageLine class="mb-3" :text="message" :good="done" />
        <button class="btn" @click="open = false">Close</button>
      </DialogPanel>
    </div>
  </Dialog>
</template>
