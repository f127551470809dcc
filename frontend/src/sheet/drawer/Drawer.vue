<script setup lang="ts">
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/vue'
import { computed, defineAsyncComponent, ref } from 'vue'
import { useCatalogue } from '../../stores/catalogue'
import { usePlant } from '../../stores/plant'
import AimList from './AimList.vue'
import AssumptionList from './AssumptionList.vue'
import BalanceList from './BalanceList.vue'
import FindingList from './FindingList.vue'
import HistoryList from './HistoryList.vue'
import LoopList from './LoopList.vue'
import StreamTable from './StreamTable.vue'

/** Charts are loaded where they are looked at. */
const ReactorList = defineAsyncComponent(() => import('./ReactorList.vue'))
const plant = usePlant()
const catalogue = useCatalogue()
const folded = defineModel<boolean>('folded', { default: false })
const emit = defineEmits<{ go: [place: string, field: string | null] }>()
const chosen = ref(0)
const told = computed(() => (plant.result?.asks.length ?? 0) + (plant.result?.findings.length ?? 0))
const assumptions = computed(() => plant.result?.assumptions ?? [])
/** Several are compared. */
const reactors = computed(
  () => (plant.document?.units ?? []).filter((u) => catalogue.type(u.type)?.family === 'reaction').length,
)
const tabs = computed(() => [
  { title: 'Streams', count: 0 },
  { title: 'Asks and findings', count: told.value },
  { title: 'Aims', count: plant.document?.aims?.length ?? 0, calm: true },
  { title: 'Loops', count: plant.result?.loops?.length ?? 0, calm: true },
  { title: 'Balances', count: 0 },
  { title: 'Assumptions', count: assumptions.value.length },
  { title: 'History', count: 0 },
  ...(reactors.value > 1 ? [{ title: 'Reactors', count: reactors.value, calm: true }] : []),
])
</script>

<template>
  <TabGroup
    as="section"
    class="flex min-h-0 flex-col border-t border-rule bg-paper"
    aria-label="Results"
    :selected-index="chosen"
    @change="chosen = $event"
  >
    <div class="flex shrink-0 px-4 pt-[5px]">
      <TabList class="flex gap-4">
        <Tab
          v-for="(t, k) in tabs"
          :key="t.title"
          class="pb-1"
          :class="chosen === k && !folded ? 'font-semibold shadow-[inset_0_-2px_0_var(--act)]' : 'text-ink2'"
          @click="folded = false"
        >
          {{ t.title
          }}<span
            v-if="t.count"
            class="ml-1 rounded-full border border-rule px-[5px] text-[11px]"
            :class="t.calm ? 'text-ink2' : 'text-warn'"
            >{{ t.count }}</span
          >
        </Tab>
      </TabList>
      <button
        class="ml-auto px-2 text-ink2"
        :title="folded ? 'Show the drawer (D)' : 'Fold the drawer (D)'"
        :aria-label="folded ? 'Show the drawer' : 'Fold the drawer'"
        :aria-expanded="!folded"
        @click="folded = !folded"
      >
        {{ folded ? '˄' : '˅' }}
      </button>
    </div>
    <TabPanels v-show="!folded" class="min-h-0 flex-1">
      <TabPanel class="h-full" :tab-index="-1"><StreamTable /></TabPanel>
      <TabPanel class="h-full" :tab-index="-1"><FindingList @go="(p, f) => emit('go', p, f)" /></TabPanel>
      <TabPanel class="h-full" :tab-index="-1"><AimList @go="(p, f) => emit('go', p, f)" /></TabPanel>
      <TabPanel class="h-full" :tab-index="-1"><LoopList @go="(p, f) => emit('go', p, f)" /></TabPanel>
      <TabPanel class="h-full" :tab-index="-1"><BalanceList @go="(p, f) => emit('go', p, f)" /></TabPanel>
      <TabPanel class="h-full" :tab-index="-1"><AssumptionList @go="(p, f) => emit('go', p, f)" /></TabPanel>
      <TabPanel class="h-full" :tab-index="-1"><HistoryList /></TabPanel>
      <TabPanel v-if="reactors > 1" class="h-full" :tab-index="-1"
        ><ReactorList @go="(p, f) => emit('go', p, f)"
      /></TabPanel>
    </TabPanels>
  </TabGroup>
</template>
