<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, type Guide } from '../api/client'
import { usePlant } from '../stores/plant'

/** Which property model suits: questions answered from the chemistry itself, and three models in order. Asked again after every change. */
const plant = usePlant()
const guide = ref<Guide | null>(null)
/** Whether a proposal is what the plant uses; equations of state have no vapour to choose. */
function used(p: Guide['proposals'][number]): boolean {
  const now = plant.document?.chemistry
  return p.key === now?.model && (p.vapour === (now.vapour ?? 'ideal') || p.vapour === 'ideal')
}

watch(
  () => plant.revision,
  async () => {
    if (!plant.variant) return
    const answer = await api.GET('/api/variants/{variant_id}/guide', {
      params: { path: { variant_id: plant.variant.id } },
    })
    guide.value = answer.data ?? null
  },
  { immediate: true },
)
</script>

<template>
  <section v-if="guide?.proposals.length" class="mb-5" aria-labelledby="guide-title">
    <h2 id="guide-title" class="head mb-1">Guide</h2>
    <p class="mb-1 text-ink2">
      <span v-for="a in guide.answers" :key="a.question" class="mr-3 inline-block">
        {{ a.question }} <b class="font-medium text-ink">{{ a.found }}</b>
      </span>
    </p>
    <ol>
      <li
        v-for="p in guide.proposals"
        :key="p.key"
        class="grid grid-cols-[150px_minmax(0,1fr)_auto] items-baseline gap-3 border-b border-rule2 py-[5px]"
      >
        <b class="font-medium">{{ p.rank }}. {{ p.title }}{{ p.vapour === 'ideal' ? '' : ', real vapour' }}</b>
        <span>
          {{ p.reasons.join('; ') }}.
          <span v-if="p.cautions.length" class="text-warn">Mind: {{ p.cautions.join('; ') }}.</span>
        </span>
        <button
          v-if="plant.editable && !used(p)"
          class="link"
          :aria-label="`Use ${p.title}`"
          @click="plant.edit({ kind: 'set_model', model: p.key, vapour: p.vapour })"
        >
          Use it
        </button>
        <span v-else class="text-ink2">in use</span>
      </li>
    </ol>
  </section>
</template>
