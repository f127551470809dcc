<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, type BankComponent } from '../api/client'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import ComponentPanel from './ComponentPanel.vue'
import ComponentSearch from './ComponentSearch.vue'
import OwnComponent from './OwnComponent.vue'
import ModelGuide from './ModelGuide.vue'
import PairMatrix from './PairMatrix.vue'

const plant = usePlant()
const catalogue = useCatalogue()
const chosen = ref<string | null>(null)
const making = ref(false)
const details = ref<BankComponent | null>(null)
const components = computed(() => plant.document?.chemistry.components ?? [])
const item = computed(() => components.value.find((c) => c.id === chosen.value))
const model = computed(() => catalogue.data?.models.find((m) => m.key === plant.document?.chemistry.model))
const counts = computed(() => {
  const rows = plant.document?.units ?? []
  return { feeds: rows.filter((u) => u.type === 'feed').length, units: rows.length }
})

watch(
  () => [chosen.value, components.value] as const,
  async () => {
    const first = item.value ?? components.value[0]
    if (first && chosen.value !== first.id) chosen.value = first.id
    if (!first?.cas) {
      details.value = null
      return
    }
    if (details.value?.cas === first.cas && details.value.solid === !!first.solid) return
    const query = first.solid ? { solid: true } : {}
    const answer = await api.GET('/api/components/{cas}', { params: { path: { cas: first.cas }, query } })
    details.value = answer.data ?? null
  },
  { immediate: true },
)
function remove(id: string) {
  void plant.edit({ kind: 'remove_component', id })
}
</script>

<template>
  <main class="grid min-h-0 grid-cols-[300px_minmax(0,1fr)_330px]">
    <section class="min-h-0 overflow-auto border-r border-rule px-4 py-3" aria-labelledby="components-title">
      <h1 id="components-title" class="head mb-1">Components</h1>
      <template v-if="plant.editable">
        <ComponentSearch />
        <button class="link mt-1" @click="making = true">Own component…</button>
      </template>
      <p v-if="!components.length" class="mt-4 border border-dashed border-rule px-3 py-4 text-ink2">
        Start here: type a name, formula or CAS number above and take the substances of your plant.
      </p>
      <ul class="mt-2">
        <li v-for="c in components" :key="c.id" class="flex items-start border-b border-rule2">
          <button
            class="min-w-0 flex-1 px-1 py-[6px] text-left"
            :class="chosen === c.id ? 'bg-actsoft' : ''"
            :aria-pressed="chosen === c.id"
            @click="((chosen = c.id), (making = false))"
          >
            <span class="flex justify-between gap-2">
              <b class="truncate font-medium">{{ c.id }}</b><span class="whitespace-nowrap text-ink2"
                >{{ c.solid || c.own_solid ? 'solid, ' : c.own_dissolved ? 'dissolved, ' : ''
                }}{{ c.cas || 'own' }}</span
              >
            </span>
          </button>
          <button
            v-if="plant.editable"
            class="px-2 py-[6px] text-ink3 hover:text-warn"
            :aria-label="`Remove ${c.id}`"
            title="Remove"
            @click="remove(c.id)"
          >
            ×
          </button>
        </li>
      </ul>
      <p v-if="components.length" class="mt-4 text-ink2">
        {{ counts.feeds }} {{ counts.feeds === 1 ? 'feed' : 'feeds' }} and {{ counts.units }} units use them. Adding or
        removing a component leaves every typed flow as it is.
      </p>
      <RouterLink
        v-if="components.length && !counts.units"
        class="btn btn-main mt-3 inline-block"
        :to="`/plant/${plant.variant?.id}/sheet`"
        >On to the sheet</RouterLink
      >
    </section>
    <section class="min-h-0 overflow-auto px-5 py-3" aria-labelledby="model-title">
      <h2 id="model-title" class="head mb-2">Property model</h2>
      <div role="radiogroup" aria-label="Property model" class="mb-3 flex flex-wrap gap-[6px]">
        <button
          v-for="m in catalogue.data?.models ?? []"
          :key="m.key"
          role="radio"
          :aria-checked="m.key === model?.key"
          :disabled="!plant.editable"
          class="border px-3 py-[5px]"
          :class="m.key === model?.key ? 'border-act bg-actsoft' : 'border-rule hover:border-act'"
          @click="m.key !== model?.key && plant.edit({ kind: 'set_model', model: m.key })"
        >
          {{ m.title }}
        </button>
      </div>
      <p v-if="model" class="mb-5 border-l-3 border-act bg-actsoft px-3 py-2">
        <b class="font-medium">{{ model.title }}</b> ({{ model.source }}). <b class="font-medium">For:</b>
        {{ model.use }} <b class="font-medium">Mind:</b> {{ model.limits }}
      </p>
      <label v-if="model?.beside === 'vapour'" class="mb-4 grid grid-cols-[auto_minmax(0,1fr)] items-center gap-3">
        <span class="whitespace-nowrap text-ink2">Vapour over the liquid</span>
        <select
          class="input max-w-[440px]!"
          name="vapour"
          :value="plant.document?.chemistry.vapour"
          :disabled="!plant.editable"
          @change="plant.edit({ kind: 'set_model', vapour: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="(text, key) in catalogue.data?.vapours ?? {}" :key="key" :value="key">{{ text }}</option>
        </select>
      </label>
      <label v-if="model?.beside === 'translated'" class="mb-4 flex items-center gap-2">
        <input
          type="checkbox"
          name="translated"
          :checked="plant.document?.chemistry.translated"
          :disabled="!plant.editable"
          @change="plant.edit({ kind: 'set_model', translated: ($event.target as HTMLInputElement).checked })"
        />
        Shift volumes so that every pure liquid has its own density
      </label>
      <ModelGuide />
      <PairMatrix />
    </section>
    <aside class="min-h-0 overflow-auto border-l border-rule px-4 py-3" aria-label="Component">
      <OwnComponent v-if="making" @done="making = false" />
      <ComponentPanel
        v-else-if="item && (details || item.own || item.own_solid || item.own_dissolved)"
        :item="item"
        :bank="item.own || item.own_solid || item.own_dissolved ? null : details"
      />
      <p v-else class="text-ink2">Choose a component to see its constants and where they come from.</p>
    </aside>
  </main>
</template>
