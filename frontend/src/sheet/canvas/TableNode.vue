<script setup lang="ts">
import { computed } from 'vue'
import { usePlant } from '../../stores/plant'
import { useSheet } from '../../stores/sheet'
import { ROW, WIDE } from './drawing'
import { useTables } from '../tables'

/** A table of results on the sheet: a row per value, a column per stream. */
const props = defineProps<{ name: string }>()
const plant = usePlant()
const sheet = useSheet()
const tables = useTables()
const drawn = computed(() => tables.all.value.get(props.name))
</script>

<template>
  <div
    class="border border-ink3 bg-paper text-[11px]"
    :class="plant.current ? '' : 'text-ink3 italic'"
    :data-test="'table-' + name"
    @dblclick="sheet.open('table', name)"
  >
    <table v-if="drawn" class="table-fixed border-collapse text-right whitespace-nowrap" :aria-label="name">
      <thead>
        <tr :style="{ height: ROW + 2 + 'px' }" class="border-b border-ink3">
          <th scope="col" class="truncate px-1 text-left font-medium" :style="{ width: WIDE[0] + 'px' }">{{ name }}</th>
          <th scope="col" :style="{ width: WIDE[1] + 'px' }" />
          <th
            scope="col"
            v-for="tag in drawn.head"
            :key="tag"
            class="tag px-1 font-medium"
            :style="{ width: WIDE[2] + 'px' }"
          >
            {{ tag }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in drawn.rows" :key="row.title" class="border-b border-rule2" :style="{ height: ROW + 'px' }">
          <th scope="row" class="truncate px-1 text-left font-normal">{{ row.title }}</th>
          <td class="px-1 text-left text-ink2">{{ row.unit }}</td>
          <td v-for="(cell, k) in row.cells" :key="k" class="px-1">{{ cell }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
