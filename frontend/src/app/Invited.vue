<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, sentence } from '../api/client'
import { useSession } from '../stores/session'
import MessageLine from './MessageLine.vue'

/** Follows an invitation: joins with the account signed in, or makes one. */
const route = useRoute()
const router = useRouter()
const session = useSession()
const params = { path: { token: String(route.params.token) } }
const invited = ref<{ project: string; role: string; guest: string } | null>(null)
const username = ref('')
const password = ref('')
const message = ref('')

onMounted(async () => {
  const answer = await api.GET('/api/invitations/{token}', { params })
  invited.value = answer.data ?? null
  message.value = answer.data ? '' : sentence(answer.error)
  username.value = answer.data?.guest.split('@')[0] ?? ''
})
async function join() {
  const body = { username: username.value, password: password.value }
  const answer = await api.POST('/api/invitations/{token}', { params, body })
  if (!answer.data) {
    message.value = sentence(answer.error)
    return
  }
  await session.load(true)
  await router.replace('/')
}
</script>

<template>
  <main class="grid min-h-screen place-items-center bg-paper">
    <form class="w-[360px] border border-rule bg-paper p-7" @submit.prevent="join">
      <h1 class="mb-3 text-[18px] font-semibold">Invitation</h1>
      <template v-if="invited">
        <p class="mb-4">
          To the project <b>{{ invited.project }}</b>, as {{ invited.role }}.
        </p>
        <p v-if="session.person" class="mb-4 text-ink2">You are signed in as {{ session.person.username }}.</p>
        <template v-else>
          <label class="mb-3 block">
            <span class="mb-1 block text-ink2">Your name here</span>
            <input v-model="username" class="input" name="username" autocomplete="username" required maxlength="150" />
          </label>
          <label class="mb-4 block">
            <span class="mb-1 block text-ink2">Password, at least 12 characters</span>
            <input
              v-model="password"
              class="input"
              name="password"
              type="password"
              autocomplete="new-password"
              required
            />
          </label>
        </template>
        <button class="btn btn-main mb-3 w-full">Join</button>
      </template>
      <MessageLine :text="message" />
      <RouterLink v-if="!session.person" class="link mt-3 inline-block" :to="`/sign-in?to=${route.fullPath}`"
        >I have an account: sign in first</RouterLink
      >
    </form>
  </main>
</template>
