<script setup lang="ts">
import { computed } from 'vue'
import { typedText, unitText } from '../../quantities/format'
import { useAims } from '../../stores/aims'
import { usePlant } from '../../stores/plant'

/** Every aim: its target and what was reached, what it frees and where that ended, and whether it is paused. */
const aims = useAims()
const plant = usePlant()
const emit = defineEmits<{ go: [place: string, field: string | null] }>()
const STATES = { met: 'met', missed: 'missed', paused: 'paused', open: 'not pursued' }
const rows = computed(() =>
  aims.aims.map((aim) => ({ aim, told: plant.result?.aims?.find((a) => a.name === aim.name) })),
)
</script>

<template>
  <div class="h-full overflow-auto px-4 py-2">
    <p v-if="!rows.length" class="text-ink2">
      No aims. Type a target over a calculated value, in the inspector or here, and choose which given may vary.
    </p>
    <table v-else class="w-full">
      <thead>
        <tr class="border-b border-rule text-left">
          <th scope="col" class="head">Aim</th>
          <th scope="col" class="head text-right">Target</th>
          <th scope="col" class="head text-right">Reached</th>
          <th scope="col" class="head pl-6">By</th>
          <th scope="col" class="head text-right">Set to</th>
          <th scope="col" class="head pl-6">State</th>
          <th scope="col" />
        </tr>
      </thead>
      <tbody>
        <template v-for="{ aim, told } in rows" :key="aim.name">
          <tr
            class="border-b border-rule2 align-baseline"
            :data-aim="aim.name"
            :class="aim.active ? '' : 'text-ink3 italic'"
          >
            <td class="py-[4px]">
              {{ aim.name }}
              <span v-if="aim.name !== aim.formula" class="block text-[12px] text-ink2">{{ aim.formula }}</span>
            </td>
            <td class="pl-4 text-right whitespace-nowrap">
              {{ typedText(aim.target.value) }} {{ unitText(aim.target.unit ?? '') }}
            </td>
            <td class="pl-4 text-right whitespace-nowrap" :class="plant.current ? '' : 'text-ink3 italic'">
              {{ aims.told(told?.value, told?.kind, '', aim.target.unit) }}
            </td>
            <td class="pl-6 whitespace-nowrap">
              <button class="link" @click="emit('go', aim.free.unit, aim.free.field)">
                {{ aims.title(aim.free) }}
              </button>
            </td>
            <td class="text-right font-semibold whitespace-nowrap" :class="plant.current ? '' : 'text-ink3 italic'">
              {{ aims.told(told?.freed, told?.freed_kind, told?.freed_si) }}
            </td>
            <td
              class="pr-4 pl-6 whitespace-nowrap"
              :class="told?.state === 'missed' || told?.state === 'open' ? 'text-warn' : ''"
            >
              {{ aim.active ? STATES[told?.state ?? 'open'] : 'paused' }}
            </td>
            <td class="pl-4 text-right whitespace-nowrap">
              <template v-if="plant.editable">
                <button class="link mr-3" @click="aims.pause(aim)">{{ aim.active ? 'Pause' : 'Pursue' }}</button>
                <button class="link mr-3" @click="aims.begin('', aim)">Change</button>
                <button class="link" @click="aims.remove(aim)">Remove</button>
              </template>
            </td>
          </tr>
          <tr v-if="aim.active && told?.text">
            <td colspan="7" class="border-b border-rule2 py-[3px] text-[12.5px]">{{ told.text }}</td>
          </tr>
        </template>
      </tbody>
    </table>
    <button v-if="plant.editable" class="btn mt-2" @click="aims.begin('')">Add an aim</button>
  </div>
</template>
