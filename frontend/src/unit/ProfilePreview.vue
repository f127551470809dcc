<script setup lang="ts">
import { computed } from 'vue'
import DiagramChart from '../diagrams/DiagramChart.vue'
import { usePlant } from '../stores/plant'
import { useProfiles } from '../stores/profiles'
import { diagramOf, panelsOf } from './panels'
import { useShower } from './shower'

/** The first picture of each profile, and the way to the page of the unit. */
const props = defineProps<{ tag: string }>()
const plant = usePlant()
const show = useShower()
const { profiles, fresh } = useProfiles(() => props.tag)
const diagrams = computed(() => profiles.value.map((p) => diagramOf(p, panelsOf(p, show.value)[0]!)))
</script>

<template>
  <div :class="fresh ? '' : 'opacity-50'">
    <div class="flex justify-between px-4 pt-2">
      <h3 class="head">Profiles</h3>
      <RouterLink class="link" :to="`/plant/${plant.variant?.id}/sheet/unit/${encodeURIComponent(tag)}`"
        >Open the page of {{ tag }}</RouterLink
      >
    </div>
    <div v-for="d in diagrams" :key="d.title" class="h-[270px] px-4 pt-1">
      <DiagramChart :diagrams="[d]" />
    </div>
  </div>
</template>
