<script setup lang="ts">
import Working from '../app/Working.vue'
import { computed, ref } from 'vue'
import ModelEquation from '../chemistry/ModelEquation.vue'
import { numberText } from '../quantities/format'
import { useFitting } from '../stores/fitting'
import { usePlant } from '../stores/plant'
import { useSession } from '../stores/session'
import FitDeviations from './FitDeviations.vue'
import RateParameters from './RateParameters.vue'

/** Which parameters of which model to fit to which data; what came out; and using it. */
const fitting = useFitting()
const plant = usePlant()
const session = useSession()
const asked = fitting.asked
const said = ref('')
const bounds = ref(false)
const free = computed(() => asked.rows.filter((r) => r.free))
const applied = {
  pairs: 'the pairs have these values now',
  pure: 'the component has this vapour pressure now',
  rates: 'the rate laws have these values now',
}
function use(name: string) {
  asked.data = asked.data.includes(name) ? asked.data.filter((n) => n !== name) : [...asked.data, name]
}
async function apply() {
  said.value =
    (await fitting.apply(session.person?.username ?? '')) ||
    `Applied: ${applied[fitting.mode as keyof typeof applied]}.`
}
</script>

<template>
  <div>
    <h2 class="head mb-1">Fit</h2>
    <p v-if="fitting.pure" class="mb-2">
      Vapour pressure, ln(P/Pa) = A − B/(T + C), T in K, for ideal and activity models.
    </p>
    <label v-if="fitting.mode === 'pairs'" class="mb-1 grid grid-cols-[74px_minmax(0,1fr)] items-center">
      Model
      <select v-model="asked.model" class="input py-[2px]!">
        <option v-for="m in fitting.models" :key="m.key" :value="m.key">{{ m.title }}</option>
      </select>
    </label>
    <ModelEquation v-if="fitting.mode === 'pairs'" :model="asked.model" />
    <label v-if="fitting.mode === 'pairs'" class="mb-1 grid grid-cols-[74px_minmax(0,1fr)] items-center">
      Objective
      <select v-model="asked.objective" class="input py-[2px]!">
        <option>least squares</option>
        <option>least squares of temperature</option>
        <option>maximum likelihood</option>
      </select>
    </label>
    <fieldset class="mb-2">
      <legend class="head">Data</legend>
      <label v-for="s in fitting.offered" :key="s.name" class="block">
        <input type="checkbox" :checked="fitting.used.includes(s.name)" @change="use(s.name)" /> {{ s.name }}
      </label>
    </fieldset>
    <RateParameters v-if="fitting.mode === 'rates'" />
    <table v-else-if="asked.rows.length" class="mb-2 w-full border-collapse">
      <thead>
        <tr class="head text-left">
          <th scope="col">Free</th>
          <th scope="col">Parameter</th>
          <th scope="col" class="text-right">{{ fitting.pure ? 'Fixed at' : 'Start' }}</th>
          <th scope="col" class="text-right">Fitted, ± 95 %</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in asked.rows" :key="r.first + r.second + r.name" class="border-t border-rule2">
          <td>
            <input v-model="r.free" type="checkbox" :aria-label="`Free ${r.name} of ${r.first} and ${r.second}`" />
          </td>
          <td>
            {{ r.name }} <span v-if="fitting.pairs.length > 1" class="text-ink2">{{ r.first }} / {{ r.second }}</span>
          </td>
          <td>
            <input
              v-if="!fitting.pure || !r.free"
              v-model.number="r.start"
              class="input ml-auto w-[72px]! py-[1px]! text-right"
              :aria-label="`Start of ${r.name}`"
            />
            <span v-if="bounds && r.free && !fitting.pure" class="flex items-center justify-end gap-1 text-ink2">
              from
              <input
                v-for="end in ['low', 'high'] as const"
                :key="end"
                v-model.number="r[end]"
                class="input w-[58px]! py-[1px]! text-right"
                placeholder="–"
                :aria-label="`${end === 'low' ? 'Lower' : 'Upper'} bound of ${r.name}`"
              />
            </span>
          </td>
          <td class="text-right whitespace-nowrap">
            <template v-if="r.free && fitting.answer && fitting.current">
              <b class="font-medium">{{ numberText(fitting.answer.values[free.indexOf(r)] ?? 0, 5) }}</b>
              <span class="text-ink2"> ± {{ numberText(fitting.answer.half_widths[free.indexOf(r)] ?? 0, 2) }}</span>
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <label v-if="fitting.mode === 'pairs' && asked.rows.length" class="mb-2 block">
      <input v-model="bounds" type="checkbox" /> with bounds
    </label>
    <button
      class="btn btn-main"
      :disabled="fitting.busy || !fitting.labels.length || !fitting.used.length"
      @click="fitting.run()"
    >
      {{ fitting.busy ? 'Fitting…' : 'Fit' }}
    </button>
    <Working v-if="fitting.busy" class="mt-2" text="Fitting" :share="fitting.share" @stop="fitting.stop" />
    <p v-if="fitting.refusal" role="alert" class="mt-2 border-l-2 border-warn bg-warnsoft px-2 py-1">
      {{ fitting.refusal }}
    </p>
    <div v-if="fitting.answer" class="mt-3" data-test="fit">
      <FitDeviations />
      <details v-if="fitting.answer.correlation.length > 1" class="mb-2">
        <summary class="cursor-pointer text-[12px] text-ink2">Correlation of the parameters</summary>
        <table class="w-full text-[12px]" data-test="correlation">
          <tbody>
            <tr v-for="(line, i) in fitting.answer.correlation" :key="i" class="border-t border-rule2">
              <th scope="row" class="text-left font-normal">{{ fitting.labels[i] }}</th>
              <td
                v-for="(value, j) in line.slice(0, i + 1)"
                :key="j"
                class="text-right"
                :class="i !== j && Math.abs(value) > 0.95 ? 'font-semibold text-warn' : ''"
              >
                {{ value.toFixed(3) }}
              </td>
            </tr>
          </tbody>
        </table>
      </details>
      <p v-for="n in fitting.answer.notes" :key="n" class="mb-1 border-l-2 border-rule px-2 text-[12px]">{{ n }}</p>
      <template v-if="plant.editable">
        <label class="mt-2 block">Remark <input v-model="asked.remark" class="input" maxlength="500" /></label>
        <button class="btn mt-2" :disabled="!fitting.current" @click="apply">Keep and apply</button>
      </template>
      <p v-if="said" role="status" class="mt-1 text-ink2">{{ said }}</p>
      <p v-if="said && fitting.idle" role="status" class="mt-1 border-l-2 border-warn bg-warnsoft px-2 py-1">
        The plant uses {{ fitting.idle.used }}: values of {{ fitting.idle.fitted }} change no result.
        <button v-if="plant.editable" class="link" @click="fitting.useModel()">
          Use {{ fitting.idle.fitted }} for the plant
        </button>
      </p>
    </div>
  </div>
</template>
