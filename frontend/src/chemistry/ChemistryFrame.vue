<script setup lang="ts">
import { useRoute } from 'vue-router'

/** The parts of the chemistry: what it is made of, how it reacts, what was measured, what it looks like. */
const route = useRoute()
const parts = [
  { path: '', title: 'Components and model' },
  { path: '/reactions', title: 'Reactions' },
  { path: '/data', title: 'Data and fits' },
  { path: '/diagrams', title: 'Diagrams' },
]
</script>

<template>
  <div class="grid min-h-0 grid-rows-[34px_minmax(0,1fr)]">
    <nav aria-label="Parts of the chemistry" class="flex items-center gap-5 border-b border-rule px-4">
      <RouterLink
        v-for="p in parts"
        :key="p.path"
        class="text-ink2"
        exact-active-class="font-semibold text-ink!"
        :to="`/plant/${route.params.id}/chemistry${p.path}`"
        >{{ p.title }}</RouterLink
      >
    </nav>
    <RouterView />
  </div>
</template>
