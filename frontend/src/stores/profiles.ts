import { computed, ref, shallowRef, watch } from 'vue'
import { api, type Profile } from '../api/client'
import { usePlant } from './plant'

/** The tables of results of a unit, asked for where they are looked at and again after every calculation. */
export function useProfiles(tag: () => string) {
  const plant = usePlant()
  const profiles = shallowRef<Profile[]>([])
  const revision = ref(0)
  const keys = computed(() => plant.result?.units[tag()]?.profiles ?? [])
  let asked = 0
  watch(
    [tag, () => keys.value.join(), () => plant.answer?.kind === 'result' && plant.answer.revision],
    async ([unit], [before]) => {
      if (unit !== before) profiles.value = []
      asked += 1
      const mine = asked
      if (!plant.variant || !keys.value.length) return
      const reply = await api.GET('/api/variants/{variant_id}/profiles', {
        params: { path: { variant_id: plant.variant.id }, query: { unit } },
      })
      if (mine !== asked || !reply.data) return
      profiles.value = reply.data.profiles
      revision.value = reply.data.revision
    },
    { immediate: true },
  )
  /** Whether they belong to the plant as it stands. */
  const fresh = computed(() => plant.current && revision.value === plant.revision)
  return { profiles: computed(() => (keys.value.length ? profiles.value : [])), fresh }
}
