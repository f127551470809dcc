<script setup lang="ts">
import { computed, ref, toRef, watch } from 'vue'
import type { Reaction } from '../api/client'
import { usePlant } from '../stores/plant'
import { draftOf, lacking, reactionOf, type Draft, type Way } from './draft'
import RateEditor from './RateEditor.vue'
import ReactionFacts from './ReactionFacts.vue'
import { useLook } from './useLook'

/** One reaction of a set: its equation, checked while it is typed, and its rate. What can be read is kept at once. */
const props = defineProps<{ of: string; reaction: Reaction }>()
const emit = defineEmits<{ renamed: [name: string] }>()
const plant = usePlant()
const draft = ref<Draft>(draftOf(props.reaction))
const { look, refusal: unanswered, ask } = useLook(toRef(() => draft.value))
const refusal = ref('')
/** What was kept last, as it is typed; anything else in the document is somebody else's change, or an undo. */
const typed = (reaction: Reaction) => JSON.stringify(draftOf(reaction))
let kept = typed(props.reaction)
watch(
  () => props.reaction,
  (next) => {
    if (typed(next) === kept) return
    kept = typed(next)
    draft.value = draftOf(next)
    refusal.value = ''
  },
)
const found = computed(() => look.value?.found ?? null)
/** The equation as it stands is the one that was looked at. */
const fresh = computed(() => look.value?.text === draft.value.text)
const numbers = computed(() =>
  found.value?.problem ? props.reaction.numbers : (found.value?.numbers ?? props.reaction.numbers),
)
/** Constants that the expressions speak of, as far as they could be read. */
const symbols = computed(() => ({
  forward: found.value?.forward?.symbols ?? [],
  backward: found.value?.backward?.symbols ?? [],
}))
const lacks = computed(() => lacking(draft.value, symbols.value))
const ways: Record<Way, string> = {
  'one way': 'goes one way',
  thermodynamics: 'backward by thermodynamics',
  'own law': 'backward by a law of its own',
}
const text = (event: Event) => (event.target as HTMLInputElement).value
async function keep() {
  refusal.value = ''
  await ask()
  const laws = [found.value?.forward, found.value?.backward]
  if (!found.value || found.value.problem || lacks.value || laws.some((law) => law?.problem)) return
  const reaction = reactionOf(draft.value, found.value.numbers, symbols.value)
  if (typed(reaction) === kept) return
  const said = await plant.edit({ kind: 'set_reaction', of: props.of, name: props.reaction.name, reaction })
  refusal.value = said
  if (said) return
  kept = typed(reaction)
  if (reaction.name !== props.reaction.name) emit('renamed', reaction.name)
}
function change(part: Partial<Draft>) {
  draft.value = { ...draft.value, ...part }
  void keep()
}
/** A new equation without "=" both ways goes one way, and the other way round. */
function equation(value: string) {
  const oneWay = /(->|=>|→)/.test(value) && !/<|⇌|↔|⇄/.test(value)
  const way = oneWay ? 'one way' : draft.value.way === 'one way' ? 'thermodynamics' : draft.value.way
  change({ text: value, way })
}
/** The sign of the equation says the same as the direction that is chosen. */
function direction(way: Way) {
  change({ way, text: draft.value.text.replace(/<=+>|<-+>|=+>|-+>|[⇌↔⇄→]|=+/, way === 'one way' ? '->' : '=') })
}
</script>

<template>
  <div class="grid min-h-0 grid-cols-[minmax(0,1fr)_360px]">
    <section class="min-h-0 overflow-auto px-4 py-3" aria-label="The reaction">
      <div class="grid grid-cols-[70px_minmax(0,1fr)] gap-2">
        <input
          class="input font-semibold"
          aria-label="Name of the reaction"
          :value="draft.name"
          maxlength="60"
          :disabled="!plant.editable"
          @change="text($event).trim() && change({ name: text($event).trim() })"
        />
        <input
          class="input font-semibold"
          aria-label="Equation"
          :value="draft.text"
          placeholder="C4H10O = C4H8O + H2"
          maxlength="400"
          spellcheck="false"
          :disabled="!plant.editable"
          @input="draft = { ...draft, text: text($event) }"
          @change="equation(text($event))"
        />
      </div>
      <p v-if="found?.problem && fresh" role="alert" class="mt-1 border-l-2 border-warn bg-warnsoft px-2 py-1">
        {{ found.problem }}.
      </p>
      <p v-else-if="found?.gap && fresh" role="alert" class="mt-1 border-l-2 border-warn bg-warnsoft px-2 py-1">
        {{ found.gap }}
        <button v-if="found.balanced_text && plant.editable" class="link ml-2" @click="equation(found.balanced_text)">
          Balance: {{ found.balanced_text }}
        </button>
      </p>
      <p v-else-if="found" class="mt-1 text-ink2" data-test="balance">{{ found.text }}; the elements balance.</p>
      <p v-for="doubt in found?.doubts ?? []" :key="doubt" class="mt-1 text-[12px] text-ink2">{{ doubt }}</p>
      <div class="my-3 grid grid-cols-[130px_minmax(0,1fr)_minmax(0,1.3fr)] gap-4">
        <label>
          <span class="block text-ink2">Phase</span>
          <select
            class="input"
            :value="draft.phase"
            :disabled="!plant.editable"
            @change="change({ phase: text($event) as Draft['phase'] })"
          >
            <option>vapour</option>
            <option>liquid</option>
          </select>
        </label>
        <label>
          <span class="block text-ink2">Rate</span>
          <select
            class="input"
            :value="draft.rated ? 'rated' : ''"
            :disabled="!plant.editable"
            @change="change({ rated: text($event) === 'rated' })"
          >
            <option value="">none, equilibrium only</option>
            <option value="rated">by a rate law</option>
          </select>
        </label>
        <label v-if="draft.rated">
          <span class="block text-ink2">Direction</span>
          <select class="input" :value="draft.way" :disabled="!plant.editable" @change="direction(text($event) as Way)">
            <option v-for="(words, way) in ways" :key="way" :value="way">{{ words }}</option>
          </select>
        </label>
      </div>
      <RateEditor
        v-if="draft.rated"
        v-model="draft.forward"
        title="Rate forward"
        :numbers="numbers"
        :sign="-1"
        :look="found?.forward ?? null"
        @done="keep"
      />
      <RateEditor
        v-if="draft.rated && draft.way === 'own law'"
        v-model="draft.backward"
        class="mt-3"
        title="Rate backward"
        :numbers="numbers"
        :sign="1"
        :look="found?.backward ?? null"
        @done="keep"
      />
      <p v-if="lacks" role="status" class="mt-2 text-ink2">{{ lacks }}</p>
      <p v-if="refusal || unanswered" role="alert" class="mt-2 border-l-2 border-warn bg-warnsoft px-2 py-1">
        {{ refusal || unanswered }}
      </p>
    </section>
    <aside class="min-h-0 overflow-auto border-l border-rule px-4 py-3" aria-label="Heat, equilibrium and speed">
      <h2 class="head mb-1">Over temperature</h2>
      <ReactionFacts v-if="found && !found.problem" :look="found" :unit="draft.forward.unit" />
    </aside>
  </div>
</template>
