<script setup lang="ts">
import { computed } from 'vue'
import { useCatalogue } from '../stores/catalogue'
import { unitText } from './format'
import { useNumberUnits } from './numberUnits'

/** The unit beside a calculated number, which may be another for this number alone. */
const props = defineProps<{ kind: string; what: string; title: string }>()
const catalogue = useCatalogue()
const own = useNumberUnits()
const units = computed(() => catalogue.data?.kinds[props.kind]?.units ?? [])
const now = computed(() => own.of(props.what, props.kind))
</script>

<template>
  <select
    v-if="units.length > 1"
    class="w-[62px] cursor-pointer appearance-none rounded-[2px] bg-transparent text-ink2 hover:text-act"
    :aria-label="`Unit of ${title}`"
    :value="now"
    @change="own.set(what, kind, ($event.target as HTMLSelectElement).value)"
  >
    <option v-for="u in units" :key="u.name" :value="u.name">{{ unitText(u.name) || '–' }}</option>
  </select>
  <span v-else class="inline-block w-[62px] text-ink2">{{ unitText(now) }}</span>
</template>
