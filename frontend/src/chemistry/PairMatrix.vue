<script setup lang="ts">
import { computed, ref } from 'vue'
import type { PairRow, Quantity } from '../api/client'
import QuantityField from '../quantities/QuantityField.vue'
import { numberText } from '../quantities/format'
import { usePlant } from '../stores/plant'

const plant = usePlant()
const ids = computed(() => (plant.document?.chemistry.components ?? []).map((c) => c.id))
const rows = computed(() => plant.variant?.pairs ?? [])
const uses = computed(() => rows.value.some((r) => r.quality !== 'not used'))
const chosen = ref<[string, string] | null>(null)
const row = computed(() => (chosen.value ? pair(...chosen.value) : undefined))
const zero = computed(() => rows.value.filter((r) => r.quality === 'assumed zero').length)
const MARKS: Record<string, string> = { 'measured fit': '●', 'typed in': '◆', 'assumed zero': '○' }

function pair(a: string, b: string): PairRow | undefined {
  return rows.value.find((r) => (r.first === a && r.second === b) || (r.first === b && r.second === a))
}
function commit(quantity: Quantity | null): Promise<string> {
  const [first, second] = chosen.value!
  const value = quantity ? { first, second, kij: quantity.value, source: 'typed in' } : null
  return plant.edit({ kind: 'set_pair', first, second, pair: value })
}
</script>

<template>
  <section aria-labelledby="pairs-title">
    <h2 id="pairs-title" class="head mb-2">Interaction parameters k<sub>ij</sub></h2>
    <p v-if="ids.length < 2" class="text-ink2">
      With two components or more, every pair and what is known of it stands here.
    </p>
    <p v-else-if="!uses" class="text-ink2">An ideal model has no pairs: every mixture behaves ideally.</p>
    <template v-else>
      <div class="overflow-auto">
        <table class="border-collapse">
          <thead>
            <tr>
              <th class="border border-rule px-2 py-1"><span class="sr-only">Component</span></th>
              <th v-for="id in ids.slice(1)" :key="id" scope="col" class="tag border border-rule px-2 py-1 text-left">
                {{ id }}
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(a, i) in ids.slice(0, -1)" :key="a">
              <th scope="row" class="tag border border-rule px-2 py-1 text-left">{{ a }}</th>
              <td
                v-for="(b, j) in ids.slice(1)"
                :key="b"
                class="h-[44px] min-w-[104px] border border-rule p-0"
                :class="j < i ? 'bg-desk' : ''"
              >
                <button
                  v-if="j >= i"
                  class="h-full w-full px-2 py-1 text-left"
                  :aria-label="`Pair ${a} and ${b}`"
                  :class="
                    chosen && chosen.includes(a) && chosen.includes(b)
                      ? 'outline-2 -outline-offset-2 outline-act'
                      : 'hover:bg-actsoft'
                  "
                  @click="chosen = [a, b]"
                >
                  <b class="block font-medium">{{ numberText(pair(a, b)?.kij ?? 0) }}</b>
                  <span
                    class="text-[11.5px]"
                    :class="pair(a, b)?.quality === 'assumed zero' ? 'text-warn' : 'text-ink2'"
                  >
                    {{ MARKS[pair(a, b)?.quality ?? ''] }} {{ pair(a, b)?.quality }}
                  </span>
                </button>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="mt-2 flex flex-wrap gap-4 text-[12px] text-ink2">
        <span>● measured fit</span><span>◆ typed in</span><span>○ assumed zero</span
        ><span>{{ zero }} of {{ rows.length }} assumed zero</span>
      </p>
      <div v-if="row && chosen" class="mt-4 max-w-[420px] border border-rule px-4 py-3">
        <h3 class="tag mb-1">{{ chosen[0] }} / {{ chosen[1] }}</h3>
        <QuantityField
          :key="chosen.join()"
          label="kij"
          kind="number"
          :disabled="!plant.editable"
          :commit="commit"
          :given="row.quality === 'typed in' ? { value: row.kij ?? 0, unit: '' } : null"
          :calculated="row.kij"
        />
        <p class="mt-1 text-[12px] text-ink2">
          {{ row.quality }}: {{ row.source }}. Type a number to use your own; empty it to go back.
        </p>
      </div>
    </template>
  </section>
</template>
