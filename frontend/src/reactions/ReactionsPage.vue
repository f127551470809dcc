<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Reaction, ReactionSet } from '../api/client'
import { usePlant } from '../stores/plant'
import { equationText } from './draft'
import ReactionEditor from './ReactionEditor.vue'

/** The reactions of the plant in named sets, which reactors choose. */
const plant = usePlant()
const sets = computed(() => plant.document?.chemistry.reactions ?? [])
const chosenSet = ref('')
const chosen = ref('')
const refusal = ref('')
const set = computed(() => sets.value.find((s) => s.name === chosenSet.value) ?? sets.value[0] ?? null)
const reactions = computed(() => set.value?.reactions ?? [])
const reaction = computed(() => reactions.value.find((r) => r.name === chosen.value) ?? reactions.value[0] ?? null)
const users = computed(() => {
  const units = plant.document?.units ?? []
  return units.filter((u) => u.spec.reactions === set.value?.name).map((u) => u.tag)
})
const free = (taken: string[], stem: string) => {
  let number = 1
  while (taken.includes(`${stem}${number}`)) number += 1
  return `${stem}${number}`
}
async function addSet() {
  const name = free(
    sets.value.map((s) => s.name),
    'Reactions ',
  )
  refusal.value = await plant.edit({ kind: 'set_reactions', name, reactions: { name } })
  chosenSet.value = name
}
async function changeSet(part: Partial<ReactionSet>) {
  const before = set.value
  if (!before) return
  refusal.value = await plant.edit({ kind: 'set_reactions', name: before.name, reactions: { ...before, ...part } })
  if (!refusal.value && part.name) chosenSet.value = part.name
}
async function removeSet(name: string) {
  refusal.value = await plant.edit({ kind: 'set_reactions', name })
}
async function add() {
  const of = set.value
  const [first, second] = plant.fluids
  if (!of || !first || !second) return
  const name = free(
    reactions.value.map((r) => r.name),
    'R',
  )
  const blank: Reaction = { name, numbers: { [first]: -1, [second]: 1 }, phase: 'vapour', backward: 'thermodynamics' }
  refusal.value = await plant.edit({ kind: 'set_reaction', of: of.name, name, reaction: blank })
  chosen.value = name
}
async function remove(name: string) {
  if (set.value) refusal.value = await plant.edit({ kind: 'set_reaction', of: set.value.name, name })
}
const counted = (n: number) => (n === 1 ? '1 reaction' : `${n} reactions`)
const textOf = (r: Reaction) => equationText(r.numbers, !r.backward)
</script>

<template>
  <main class="grid min-h-0 grid-cols-[260px_minmax(0,1fr)]">
    <section class="min-h-0 overflow-auto border-r border-rule px-4 py-3" aria-labelledby="reactions-title">
      <h1 id="reactions-title" class="head mb-1">Reaction sets</h1>
      <ul>
        <li v-for="s in sets" :key="s.name" class="flex border-b border-rule2">
          <button
            class="min-w-0 flex-1 px-1 py-[5px] text-left"
            :class="set?.name === s.name ? 'bg-actsoft' : ''"
            :aria-pressed="set?.name === s.name"
            @click="chosenSet = s.name"
          >
            <b class="font-medium">{{ s.name }}</b>
            <span class="ml-2 text-[12px] text-ink2">{{ counted(s.reactions?.length ?? 0) }}</span>
          </button>
          <button
            v-if="plant.editable"
            class="px-1 text-ink3 hover:text-warn"
            :aria-label="`Remove ${s.name}`"
            @click="removeSet(s.name)"
          >
            ×
          </button>
        </li>
      </ul>
      <button v-if="plant.editable && plant.fluids.length > 1" class="btn mt-2" @click="addSet">Add a set</button>
      <template v-if="set">
        <h2 class="head mt-5 mb-1">Reactions of {{ set.name }}</h2>
        <ul>
          <li v-for="r in reactions" :key="r.name" class="flex border-b border-rule2">
            <button
              class="min-w-0 flex-1 px-1 py-[5px] text-left"
              :class="reaction?.name === r.name ? 'bg-actsoft' : ''"
              :aria-pressed="reaction?.name === r.name"
              @click="chosen = r.name"
            >
              <b class="font-medium">{{ r.name }}</b> {{ textOf(r) }}
              <span class="block text-[12px] text-ink2"
                >{{ r.phase }}, {{ r.forward ? 'with a rate' : 'without a rate' }}</span
              >
            </button>
            <button
              v-if="plant.editable"
              class="px-1 text-ink3 hover:text-warn"
              :aria-label="`Remove ${r.name}`"
              @click="remove(r.name)"
            >
              ×
            </button>
          </li>
        </ul>
        <button v-if="plant.editable" class="btn mt-2" @click="add">Add a reaction</button>
        <label class="mt-5 block">
          <span class="head mb-1 block">Name of the set</span>
          <input
            class="input"
            name="set-name"
            :value="set.name"
            maxlength="60"
            :disabled="!plant.editable"
            @change="changeSet({ name: ($event.target as HTMLInputElement).value.trim() })"
          />
        </label>
        <label class="mt-2 block">
          <span class="head mb-1 block">Source</span>
          <textarea
            class="input"
            rows="2"
            name="set-source"
            placeholder="where the rates come from"
            :value="set.source"
            maxlength="400"
            :disabled="!plant.editable"
            @change="changeSet({ source: ($event.target as HTMLTextAreaElement).value.trim() })"
          />
        </label>
        <p class="mt-2 text-ink2">
          {{ users.length ? `Used by ${users.join(', ')}.` : 'No reactor uses it yet; choose it in one on the sheet.' }}
        </p>
      </template>
      <p v-if="refusal" role="alert" class="mt-2 border-l-2 border-warn bg-warnsoft px-2 py-1">{{ refusal }}</p>
    </section>
    <ReactionEditor
      v-if="set && reaction"
      :key="`${set.name}/${reaction.name}`"
      :of="set.name"
      :reaction="reaction"
      @renamed="(name) => (chosen = name)"
    />
    <section v-else class="max-w-[640px] px-4 py-3">
      <h2 class="head mb-1">Write the reactions once, use them in every reactor</h2>
      <p v-if="plant.fluids.length < 2">Choose the components first, under Components and model.</p>
      <template v-else>
        <p class="mb-2">
          A set holds the reactions that happen side by side or one after the other. Add one on the left, then a
          reaction, and type its equation with names, formulas or CAS numbers: the balance of elements, the heat of
          reaction and the equilibrium constant appear as you type.
        </p>
        <p class="text-ink2">
          The unit of a rate constant follows from the rate law and is checked; any unit of the right dimension is
          converted, any other is refused with both stated.
        </p>
      </template>
    </section>
  </main>
</template>
