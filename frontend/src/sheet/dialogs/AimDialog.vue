<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed } from 'vue'
import type { Quantity } from '../../api/client'
import QuantityField from '../../quantities/QuantityField.vue'
import { unitText } from '../../quantities/format'
import Working from '../../app/Working.vue'
import { useAims } from '../../stores/aims'
import { usePlant } from '../../stores/plant'

/** A target over a calculated value, and which given may vary to meet it. */
const aims = useAims()
const plant = usePlant()
const offered = computed(() =>
  Object.keys(plant.result?.streams ?? {}).flatMap((tag) =>
    ['temperature', 'vapour_fraction', 'mass_flow'].map((what) => `${tag}.${what}`),
  ),
)
/** A target whose kind has no name is typed as a number in the SI unit of the formula. */
function plain(event: Event) {
  const value = Number((event.target as HTMLInputElement).value)
  aims.asked.target = Number.isFinite(value) ? { value, unit: aims.answer?.si ?? '' } : null
}
function set(which: 'target' | 'low' | 'high') {
  return async (quantity: Quantity | null) => {
    aims.asked[which] = quantity
    return ''
  }
}
/** What the dialog waits for. */
const waiting = computed(() => {
  if (aims.busy) return 'Waits for the search for what has an effect on it.'
  if (aims.answer) return aims.asked.target ? '' : 'Waits for a target.'
  const calculated = Object.keys(plant.result?.streams ?? {}).length > 0
  if (!calculated) return 'Waits for a result: nothing of this plant is calculated yet.'
  return aims.refusal ? 'Waits for a value that can be calculated.' : 'Waits for a value or a formula to aim at.'
})
async function ask() {
  aims.asked.chosen = ''
  await aims.propose()
}
</script>

<template>
  <Dialog :open="aims.open" class="relative z-50" @close="aims.open = false">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel
        as="form"
        class="max-h-[92vh] w-[640px] overflow-auto border border-rule bg-paper p-6 text-ink shadow-xl"
        @submit.prevent="aims.keep"
      >
        <DialogTitle class="mb-1 text-[16px] font-semibold">{{
          aims.before ? `Aim ${aims.before}` : 'Aim at a value'
        }}</DialogTitle>
        <p class="mb-3 text-ink2">Type the value that you want; one given is changed until it is met.</p>
        <div class="mb-3 grid grid-cols-[1fr_180px] gap-3">
          <label>
            <span class="block text-ink2">Value, or a formula over results</span>
            <input
              v-model="aims.asked.formula"
              class="input"
              name="aim-formula"
              list="aim-values"
              maxlength="300"
              required
              @change="ask"
            />
          </label>
          <label>
            <span class="block text-ink2">Name</span>
            <input
              v-model="aims.asked.name"
              class="input"
              name="aim-name"
              maxlength="60"
              :placeholder="aims.asked.formula"
            />
          </label>
          <datalist id="aim-values"><option v-for="text in offered" :key="text" :value="text" /></datalist>
        </div>
        <Working
          v-if="aims.busy"
          class="mb-3"
          text="Looking for what has an effect on it"
          :share="aims.share"
          @stop="aims.stop"
        />
        <template v-if="aims.answer">
          <div class="mb-4 grid grid-cols-[150px_1fr] items-center gap-3" data-field="target">
            <span
              >Now
              <b class="font-semibold">{{ aims.told(aims.answer.value, aims.answer.kind, aims.answer.si) }}</b></span
            >
            <QuantityField
              v-if="aims.answer.kind"
              label="Target"
              :kind="aims.answer.kind"
              :given="aims.asked.target"
              :commit="set('target')"
            />
            <label v-else class="grid grid-cols-[1fr_132px] items-center gap-2"
              >Target, {{ unitText(aims.answer.si) || 'a number' }}
              <input class="input text-right" :value="aims.asked.target?.value ?? ''" @change="plain" />
            </label>
          </div>
          <fieldset class="mb-3">
            <legend class="head mb-1">What may vary</legend>
            <p v-if="!aims.answer.proposals.length" class="border-l-2 border-warn bg-warnsoft px-2 py-1">
              No given upstream has an effect on it that is not freed already.
            </p>
            <div class="max-h-[210px] overflow-auto">
              <label
                v-for="p in aims.answer.proposals"
                :key="p.unit + p.field"
                class="grid grid-cols-[20px_1fr_110px_200px] items-baseline gap-2 border-b border-rule2 py-[4px]"
              >
                <input v-model="aims.asked.chosen" type="radio" name="aim-free" :value="`${p.unit}.${p.field}`" />
                <span
                  ><b class="tag font-medium">{{ p.unit }}</b> {{ p.title.toLowerCase() }}</span
                >
                <span class="text-right">{{ aims.told(p.value, p.kind, p.si) }}</span>
                <span class="text-right text-[12px] text-ink2">{{
                  aims.effect(p.slope, p.kind, p.si, aims.answer.kind)
                }}</span>
              </label>
            </div>
          </fieldset>
          <div v-if="aims.choice" class="mb-3 grid grid-cols-2 gap-6">
            <QuantityField
              label="Not below"
              :kind="aims.choice.kind"
              :given="aims.asked.low"
              :commit="set('low')"
              data-field="low"
            />
            <QuantityField
              label="Not above"
              :kind="aims.choice.kind"
              :given="aims.asked.high"
              :commit="set('high')"
              data-field="high"
            />
          </div>
        </template>
        <p v-if="aims.refusal" role="alert" class="mb-3 border-l-2 border-warn bg-warnsoft px-2 py-1">
          {{ aims.refusal }}
        </p>
        <div class="flex items-baseline gap-2">
          <button class="btn btn-main" :disabled="aims.busy || !aims.answer" aria-describedby="aim-waits">
            {{ aims.before ? 'Keep' : 'Aim at it' }}
          </button>
          <button type="button" class="btn" @click="aims.open = false">Cancel</button>
          <span id="aim-waits" class="text-ink2" role="status">{{ waiting }}</span>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
