import { computed, ref, shallowRef, watch } from 'vue'
import { api, type Profile } from '../api/client'
import { usePlant } from './plant'

/** The tables of results of units, asked for where they are looked at and again after every calculation. */
export function useProfilesOf(tags: () => string[]) {
  const plant = usePlant()
  const profiles = shallowRef(new Map<string, Profile[]>())
  const revision = ref(0)
  /** The units that have some, and which. */
  const keys = computed(() => new Map(tags().map((tag) => [tag, plant.result?.units[tag]?.profiles ?? []])))
  let asked = 0
  async function ask(tag: string, variant: number) {
    const reply = await api.GET('/api/variants/{variant_id}/profiles', {
      params: { path: { variant_id: variant }, query: { unit: tag } },
    })
    return reply.data && ([tag, reply.data] as const)
  }
  watch(
    [
      () => tags().join('|'),
      () => [...keys.value.values()].join('|'),
      () => plant.answer?.kind === 'result' && plant.answer.revision,
    ],
    async ([units], [before]) => {
      if (units !== before) profiles.value = new Map()
      asked += 1
      const mine = asked
      const id = plant.variant?.id
      const wanted = [...keys.value].filter(([, found]) => found.length).map(([tag]) => tag)
      if (!id || !wanted.length) return
      const replies = (await Promise.all(wanted.map((tag) => ask(tag, id)))).filter((reply) => reply !== undefined)
      if (mine !== asked || !replies.length) return
      profiles.value = new Map(replies.map(([tag, data]) => [tag, data.profiles]))
      revision.value = Math.min(...replies.map(([, data]) => data.revision))
    },
    { immediate: true },
  )
  /** Whether they belong to the plant as it stands. */
  const fresh = computed(() => plant.current && revision.value === plant.revision)
  const known = (tag: string) => (keys.value.get(tag)?.length ? (profiles.value.get(tag) ?? []) : [])
  return { known, fresh }
}

/** Those of one unit. */
export function useProfiles(tag: () => string) {
  const { known, fresh } = useProfilesOf(() => [tag()])
  return { profiles: computed(() => known(tag())), fresh }
}
