<script setup lang="ts">
import { ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, sentence } from '../api/client'
import MessageLine from './MessageLine.vue'

/** With a link from the mail: set the password. Without one: ask for the mail. */
const route = useRoute()
const text = ref('')
const message = ref('')
const done = ref(false)
const withLink = !!route.params.token

async function submit() {
  const answer = withLink
    ? await api.POST('/api/password/reset', {
        body: { person: String(route.params.person), token: String(route.params.token), password: text.value },
      })
    : await api.POST('/api/password/forgotten', { body: { username: text.value } })
  done.value = !!answer.data
  message.value = answer.data?.message ?? sentence(answer.error)
}
</script>

<template>
  <main class="grid min-h-screen place-items-center bg-paper">
    <form class="w-[340px] border border-rule bg-paper p-7" @submit.prevent="submit">
      <h1 class="mb-4 text-[18px] font-semibold">{{ withLink ? 'Set a new password' : 'Password forgotten' }}</h1>
      <label class="mb-4 block">
        <span class="mb-1 block text-ink2">{{ withLink ? 'New password, at least 12 characters' : 'Your name' }}</span>
        <input v-model="text" class="input" name="text" :type="withLink ? 'password' : 'text'" required autofocus />
      </label>
      <button class="btn btn-main w-full" :disabled="done">{{ withLink ? 'Set it' : 'Send me a link' }}</button>
      <MessageLine class="mt-3" :text="message" :good="done" />
      <RouterLink class="link mt-3 inline-block" to="/sign-in">To the sign-in</RouterLink>
    </form>
  </main>
</template>
