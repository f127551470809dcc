<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, sentence } from '../api/client'
import { useSession } from '../stores/session'
import MessageLine from './MessageLine.vue'

/** Follows a share link: from here on this browser reads the variant. */
const route = useRoute()
const router = useRouter()
const session = useSession()
const message = ref('')

onMounted(async () => {
  const params = { path: { token: String(route.params.token) } }
  const answer = await api.POST('/api/shared/{token}', { params })
  if (!answer.data) {
    message.value = sentence(answer.error)
    return
  }
  await session.load(true)
  await router.replace(`/plant/${answer.data.variant}/sheet`)
})
</script>

<template>
  <main class="grid min-h-screen place-items-center bg-paper">
    <div class="w-[380px]">
      <h1 class="mb-3 text-[18px] font-semibold">A plant shared with you</h1>
      <p v-if="!message" class="text-ink2">Opening…</p>
      <MessageLine :text="message" />
      <RouterLink v-if="message" class="link mt-3 inline-block" to="/sign-in">To the sign-in</RouterLink>
    </div>
  </main>
</template>
