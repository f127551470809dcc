<script setup lang="ts">
import { computed } from 'vue'
import { usePlant } from '../../stores/plant'
import { useSheet, type Overlay } from '../../stores/sheet'

/** On the sheet's upper edge: what is done with the drawing as a whole, or with the units that are chosen. */
const plant = usePlant()
const sheet = useSheet()
const emit = defineEmits<{
  arrange: []
  align: [way: 'row' | 'column']
  download: [kind: 'svg' | 'png' | 'pdf']
  area: [name: string]
}>()
const several = computed(() => sheet.chosen.length > 1)
const priced = computed(() => Object.values(plant.result?.streams ?? {}).every((s) => s.money_flow != null))
const LINES: [Overlay, string][] = [
  ['none', 'by phase'],
  ['mass_flow', 'mass flow'],
  ['enthalpy_flow', 'enthalpy flow'],
  ['money_flow', 'money flow'],
]
</script>

<template>
  <div
    v-if="plant.document?.units?.length"
    class="flex flex-wrap items-center gap-1 border-b border-rule2 px-2 py-[3px] text-[12px]"
  >
    <select
      v-if="plant.document.areas?.length"
      class="input w-auto! max-w-[170px] py-[2px]!"
      aria-label="Part of the plant that is shown"
      :value="sheet.area"
      @change="emit('area', ($event.target as HTMLSelectElement).value)"
    >
      <option value="">Whole plant</option>
      <option v-for="a in plant.document.areas" :key="a.name">{{ a.name }}</option>
    </select>
    <div class="flex items-center gap-1" role="group" aria-label="Sheet">
      <template v-if="several">
        <span class="px-1 font-medium">{{ sheet.chosen.length }} units</span>
        <button class="btn py-[2px]!" @click="sheet.copy">Copy</button>
        <template v-if="plant.editable">
          <button class="btn py-[2px]!" @click="sheet.duplicate">Duplicate</button>
          <button class="btn py-[2px]!" @click="plant.edit({ kind: 'flip', tags: sheet.chosen })">Mirror</button>
          <button class="btn py-[2px]!" @click="plant.edit({ kind: 'turn', tags: sheet.chosen })">Turn</button>
          <button class="btn py-[2px]!" @click="emit('align', 'row')">Row</button>
          <button class="btn py-[2px]!" @click="emit('align', 'column')">Column</button>
          <button class="btn py-[2px]!" @click="sheet.open('kits')">Keep as kit</button>
          <button class="btn py-[2px]!" @click="sheet.open('area')">Frame as area</button>
          <button class="btn py-[2px]!" @click="sheet.remove">Remove</button>
        </template>
      </template>
      <template v-else-if="plant.editable">
        <button class="btn py-[2px]!" title="Add a unit; A finds one by typing" @click="sheet.open('add')">
          Add a unit
        </button>
        <button class="btn py-[2px]!" @click="sheet.open('kits')">Kits</button>
        <button class="btn py-[2px]!" @click="sheet.open('note')">Note</button>
        <button class="btn py-[2px]!" @click="sheet.open('shown')">Values beside</button>
        <button class="btn py-[2px]!" @click="sheet.open('table')">Table</button>
      </template>
      <button v-if="plant.editable" class="btn py-[2px]!" @click="emit('arrange')">Arrange</button>
    </div>
    <div class="ml-auto flex items-center gap-1 text-ink2">
      <label class="flex items-center gap-1"
        >Lines
        <select v-model="sheet.overlay" name="lines" class="input w-auto! py-[2px]!">
          <option v-for="[key, title] in LINES" :key="key" :value="key">{{ title }}</option>
        </select></label
      >
      <span v-if="sheet.overlay === 'money_flow' && !priced" role="status" class="text-warn"
        >Give every component a price under Chemistry.</span
      >
      <button class="btn py-[2px]!" @click="emit('download', 'svg')">SVG</button>
      <button class="btn py-[2px]!" @click="emit('download', 'png')">PNG</button>
      <button class="btn py-[2px]!" @click="emit('download', 'pdf')">PDF</button>
    </div>
  </div>
</template>
