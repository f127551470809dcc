<script setup lang="ts">
import { computed } from 'vue'
import type { Profile } from '../api/client'
import { rowTexts, unitText } from '../quantities/format'
import { fullTitle, type Shower } from './panels'

/** A profile as numbers, to be read or copied into a spreadsheet. */
const props = defineProps<{ profile: Profile; row: number; show: Shower }>()
const columns = computed(() => [props.profile.along, ...props.profile.columns])
const texts = computed(() =>
  columns.value.map((c, k) =>
    k === 0 && props.profile.steps
      ? c.values.map(String)
      : rowTexts(
          c.values.map((v) => (v === null ? null : props.show.shown(v, c.kind))),
          6,
        ),
  ),
)
</script>

<template>
  <div class="min-h-0 overflow-auto" tabindex="0" :aria-label="`${profile.title}, numbers`">
    <table class="border-collapse">
      <thead>
        <tr>
          <th
            v-for="c in columns"
            :key="c.key + c.component"
            scope="col"
            class="head sticky top-0 bg-paper px-3 py-1 text-right align-bottom"
          >
            {{ fullTitle(c) }}<br /><span class="font-normal">{{
              profile.steps && c === profile.along ? '' : unitText(show.displayUnit(c.kind))
            }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="(_, n) in profile.along.values"
          :key="n"
          class="border-t border-rule2"
          :class="n === row ? 'bg-actsoft' : ''"
        >
          <td v-for="(column, k) in texts" :key="k" class="px-3 py-[2px] text-right">{{ column[n] }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
