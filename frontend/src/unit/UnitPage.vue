<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { inField, provideCommands } from '../app/commands'
import { downloadCsv } from '../diagrams/download'
import AimDialog from '../sheet/dialogs/AimDialog.vue'
import StateMark from '../sheet/canvas/StateMark.vue'
import FindingCard from '../sheet/inspector/FindingCard.vue'
import UnitInspector from '../sheet/inspector/UnitInspector.vue'
import { useDrawing } from '../stores/drawing'
import { usePlant } from '../stores/plant'
import { useProfiles } from '../stores/profiles'
import ColumnSpecifications from './ColumnSpecifications.vue'
import ColumnTries from './ColumnTries.vue'
import ProfileTable from './ProfileTable.vue'
import ReadList from './ReadList.vue'
import SectionChart from './SectionChart.vue'
import { fullTitle } from './panels'
import { useShower } from './shower'

/** The page of a unit: the apparatus in section with its profiles, the numbers, givens, results and findings. */
const plant = usePlant()
const drawing = useDrawing()
const route = useRoute()
const router = useRouter()
const show = useShower()
const tag = computed(() => String(route.params.tag))
const unit = computed(() => plant.unit(tag.value))
const type = computed(() => unit.value && plant.typeOf(unit.value))
const { profiles, fresh } = useProfiles(() => tag.value)
const chosen = ref('')
const numbers = ref(false)
const row = ref(0)
const profile = computed(() => profiles.value.find((p) => p.key === chosen.value) ?? profiles.value[0])
/** The profile that is shown, also while none was chosen. */
const shown = computed({ get: () => profile.value?.key ?? '', set: (key) => (chosen.value = key) })
const chart = useTemplateRef('chart')
/** A column of three components, whose stages may be looked at among residue curves. */
const three = computed(() => {
  const stages = unit.value?.type === 'staged-column' ? profiles.value.find((p) => p.key === 'stages') : undefined
  const parts = stages?.columns.filter((c) => c.key === 'liquid_fraction').map((c) => c.component) ?? []
  const pressures = stages?.columns.find((c) => c.key === 'pressure')?.values ?? []
  return parts.length === 3 ? { parts, pressure: pressures[Math.floor(pressures.length / 2)] ?? null } : null
})
async function amongCurves() {
  if (!three.value) return
  const { parts, pressure } = three.value
  Object.assign(drawing.asked, { kind: 'residue_curves', components: parts, column: tag.value, basis: 'mole' })
  const unitOf = show.value.displayUnit('pressure')
  if (pressure !== null)
    drawing.asked.pressure = { value: Number(show.value.shown(pressure, 'pressure').toPrecision(6)), unit: unitOf }
  await router.push(`/plant/${plant.variant?.id}/chemistry/diagrams`)
}
/** What stops it, in the place of what it would show. */
const faults = computed(() =>
  (plant.result?.findings ?? []).filter((f) => f.place === tag.value && f.severity === 'fault'),
)
const sheet = computed(() => `/plant/${plant.variant?.id}/sheet`)

watch(tag, (now) => (plant.selected = now), { immediate: true })
/** It begins in the middle, and stays where it was when the numbers change. */
watch(
  () => [profile.value?.key, profile.value?.along.values.length] as const,
  ([key, length], before) => {
    if (length && (key !== before?.[0] || row.value >= length)) row.value = Math.floor(length / 2)
  },
  { immediate: true },
)
async function back() {
  await router.push(sheet.value)
}
/** A stream, or what it leads to, is looked at on the sheet. */
async function open(name: string) {
  plant.selected = name
  await back()
}
useEventListener('keydown', (event: KeyboardEvent) => {
  const inDialog = (event.target as HTMLElement | null)?.closest('[role=dialog]')
  if (event.key === 'Escape' && !inField(event) && !inDialog) void back()
})
onBeforeUnmount(
  provideCommands(() => [
    { id: 'back', title: 'Back to the sheet', group: tag.value, keys: 'Esc', run: () => void back() },
    { id: 'numbers', title: 'Section or numbers', group: tag.value, run: () => void (numbers.value = !numbers.value) },
  ]),
)
function csv() {
  if (!profile.value) return
  const columns = [profile.value.along, ...profile.value.columns]
  const head = columns.map((c) => `${fullTitle(c)}, ${show.value.displayUnit(c.kind)}`)
  const rows = profile.value.along.values.map((_, n) =>
    columns.map((c) => (c.values[n] == null ? null : show.value.shown(c.values[n]!, c.kind))),
  )
  downloadCsv([head, ...rows], `${tag.value}-${profile.value.key}`)
}
function save(kind: 'png' | 'svg' | 'csv') {
  if (kind === 'png') chart.value?.png()
  else if (kind === 'svg') chart.value?.svg()
  else csv()
}
</script>

<template>
  <main v-if="unit" class="grid min-h-0 grid-cols-[minmax(0,1fr)_340px] grid-rows-[auto_minmax(0,1fr)]">
    <header class="col-span-2 flex items-center gap-5 border-b border-rule px-4 py-2">
      <h1 class="tag text-[20px] font-semibold">{{ tag }}</h1>
      <StateMark :mark="plant.mark(tag)" />
      <span class="text-ink2">{{ type?.title }}</span>
      <nav v-if="profile" aria-label="Views of the unit" class="flex gap-1">
        <button
          v-for="way in [false, true]"
          :key="String(way)"
          class="px-2 py-1"
          :class="numbers === way ? 'font-semibold shadow-[inset_0_-2px_0_var(--act)]' : 'text-ink2'"
          :aria-pressed="numbers === way"
          @click="numbers = way"
        >
          {{ way ? 'Numbers' : profile.ports?.length ? 'Section' : 'Curves' }}
        </button>
      </nav>
      <label v-if="profiles.length > 1" class="flex items-center gap-2 text-ink2">
        Profile
        <select v-model="shown" class="input w-auto! py-[3px]!" name="profile">
          <option v-for="p in profiles" :key="p.key" :value="p.key">{{ p.title }}</option>
        </select>
      </label>
      <span v-if="profile" class="flex gap-3">
        <button v-if="!numbers" class="link" @click="save('png')">PNG</button>
        <button v-if="!numbers" class="link" @click="save('svg')">SVG</button>
        <button class="link" @click="save('csv')">CSV</button>
      </span>
      <button v-if="three" class="link" @click="amongCurves">Among residue curves</button>
      <RouterLink class="link ml-auto" :to="sheet">Back to the sheet</RouterLink>
    </header>
    <div class="grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)] p-3" :class="fresh || !profile ? '' : 'opacity-60'">
      <div class="max-w-[80ch]">
        <FindingCard v-for="(f, k) in faults" :key="k" :finding="f" class="mb-2" />
      </div>
      <template v-if="profile">
        <ProfileTable v-if="numbers" :profile="profile" :row="row" :show="show" />
        <SectionChart
          v-else
          ref="chart"
          :key="profile.key"
          v-model:row="row"
          :unit="unit"
          :profile="profile"
          :show="show"
          @open="open"
        />
      </template>
      <p v-else-if="!faults.length" class="max-w-[60ch] p-4 text-ink2">
        {{
          plant.mark(tag) === 'current'
            ? 'This unit has no profiles: its values stand beside.'
            : 'Profiles appear here as soon as the unit is calculated.'
        }}
      </p>
    </div>
    <aside class="min-h-0 overflow-auto border-l border-rule" aria-label="Inspector">
      <ColumnSpecifications v-if="unit.type === 'staged-column'" :key="`${tag} specifications`" :unit="unit" />
      <ReadList v-if="profile" :unit="unit" :profile="profile" :row="row" :show="show" />
      <ColumnTries v-if="unit.type === 'staged-column'" :key="`${tag} tries`" :unit="unit" />
      <UnitInspector :key="tag" :unit="unit" page />
    </aside>
    <AimDialog />
  </main>
  <div v-else class="p-8">
    <p class="mb-2">There is no unit {{ tag }} on the sheet.</p>
    <RouterLink class="link" :to="sheet">To the sheet</RouterLink>
  </div>
</template>
