<script setup lang="ts">
import { nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, sentence } from '../api/client'
import MessageLine from './MessageLine.vue'

/** The documentation, page by page; the address may name a heading. */
const route = useRoute()
const router = useRouter()
const pages = ref<{ slug: string; title: string }[]>([])
const html = ref('')
const message = ref('')
const body = ref<HTMLElement | null>(null)

async function load() {
  const answer = await api.GET('/api/help/{slug}', { params: { path: { slug: String(route.params.slug) } } })
  message.value = answer.data ? '' : sentence(answer.error)
  html.value = answer.data?.html ?? ''
  pages.value = answer.data?.pages ?? pages.value
  await scroll()
}
async function scroll() {
  await nextTick()
  const heading = route.hash ? body.value?.querySelector(`[id="${CSS.escape(route.hash.slice(1))}"]`) : null
  if (heading) heading.scrollIntoView()
  else body.value?.scrollTo(0, 0)
}
watch(() => route.params.slug, load, { immediate: true })
watch(() => route.hash, scroll)

/** Links between pages stay inside the program. */
function follow(event: MouseEvent) {
  const link = (event.target as HTMLElement).closest('a')
  const target = link?.getAttribute('href') ?? ''
  if (!target.startsWith('/help/') && !target.startsWith('#')) return
  event.preventDefault()
  void router.push(target.startsWith('#') ? { hash: target } : target)
}
</script>

<template>
  <div class="grid h-screen grid-rows-[44px_minmax(0,1fr)] bg-paper">
    <header class="flex items-center gap-4 border-b border-rule px-4">
      <RouterLink to="/" class="font-semibold tracking-wide">Wattaxis</RouterLink>
      <span class="text-ink2">Help</span>
    </header>
    <div class="grid min-h-0 grid-cols-[230px_minmax(0,1fr)]">
      <nav class="border-r border-rule p-4" aria-label="Pages">
        <RouterLink
          v-for="page in pages"
          :key="page.slug"
          :to="`/help/${page.slug}`"
          class="block py-[5px] text-ink2"
          active-class="font-semibold text-ink!"
          >{{ page.title }}</RouterLink
        >
      </nav>
      <main ref="body" class="min-h-0 overflow-auto px-10 py-6" tabindex="0" @click="follow">
        <MessageLine :text="message" />
        <!-- eslint-disable-next-line vue/no-v-html -- made by the server from the documentation that ships -->
        <article class="prose" v-html="html" />
      </main>
    </div>
  </div>
</template>
