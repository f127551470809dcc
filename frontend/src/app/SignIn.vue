<script setup lang="ts">
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useSession } from '../stores/session'
import MessageLine from './MessageLine.vue'
import SignInFields from './SignInFields.vue'

const session = useSession()
const router = useRouter()
const route = useRoute()
const name = ref('')
const message = ref('')
const busy = ref(false)

async function submit(password: string, code: string) {
  busy.value = true
  message.value = await session.signIn(name.value, password, code)
  busy.value = false
  const to = String(route.query.to ?? '/')
  if (!message.value) await router.push(to.startsWith('/') && !to.startsWith('//') ? to : '/')
}
</script>

<template>
  <main class="grid min-h-screen place-items-center bg-paper">
    <div class="w-[340px] border border-rule bg-paper p-7">
      <svg viewBox="0 0 300 46" class="mb-4 w-full" aria-hidden="true">
        <g fill="none" stroke="var(--ink)" stroke-width="1.4">
          <path d="M2 24H60M96 24H150M186 24H298" />
          <circle cx="78" cy="24" r="18" />
          <path d="M60 24h8l6-10l8 20l6-10h8" />
          <path d="M150 12l36 24V12l-36 24z" />
        </g>
      </svg>
      <h1 class="text-[20px] font-semibold">Wattaxis</h1>
      <p class="mb-5 text-ink2">Flowsheets of chemical plants, calculated as you draw.</p>
      <SignInFields :busy="busy" :code="session.codeWanted" @submit="submit">
        <template #before>
          <label class="mb-3 block">
            <span class="mb-1 block text-ink2">Name</span>
            <input v-model="name" class="input" name="username" autocomplete="username" required autofocus />
          </label>
        </template>
      </SignInFields>
      <MessageLine class="mt-3" :text="message" />
      <RouterLink class="link mt-3 inline-block" to="/reset">Password forgotten</RouterLink>
    </div>
  </main>
</template>
