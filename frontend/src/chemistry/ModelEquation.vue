<script setup lang="ts">
import { computed } from 'vue'
import { useCatalogue } from '../stores/catalogue'

/** How the pair parameters of a property model enter, beside where they are typed or fitted. */
const props = defineProps<{ model: string }>()
const catalogue = useCatalogue()
const lines = computed(() => catalogue.data?.models.find((m) => m.key === props.model)?.equation ?? [])
</script>

<template>
  <div v-if="lines.length" class="mb-2 border-l-2 border-rule px-2 text-[12.5px]" data-test="equation">
    <p v-for="line in lines" :key="line">{{ line }}</p>
  </div>
</template>
