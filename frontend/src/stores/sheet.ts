import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, sentence, type Piece, type EditOf } from '../api/client'
import { usePlant } from './plant'

export type Overlay = 'none' | 'mass_flow' | 'enthalpy_flow' | 'money_flow'
const CLIP = 'wattaxis-piece'

/** What is chosen on the sheet beside the one selected thing, what was copied, and which dialog is open. */
export const useSheet = defineStore('sheet', () => {
  const plant = usePlant()
  const group = shallowRef<string[]>([])
  /** A copy under way, which a paste waits for. */
  let copying: Promise<boolean> = Promise.resolve(false)
  const overlay = ref<Overlay>('none')
  /** The area that is shown as a sheet of its own; blank for the whole plant. */
  const area = ref('')
  /** Counts what was placed, so that the sheet shows all of itself again. */
  const placed = ref(0)
  const dialog = ref<'' | 'add' | 'kits' | 'compression' | 'scaling' | 'shown' | 'note' | 'area' | 'table'>('')
  /** What the open dialog is about: a stream, a note, an area. */
  const subject = ref('')

  watch(
    () => plant.selected,
    (now) => {
      if (!now || !group.value.includes(now)) group.value = []
    },
  )
  /** Units that are chosen: all of a group, or the selected one. */
  const chosen = computed(() => {
    const tags = new Set(group.value)
    if (plant.selected && plant.unit(plant.selected)) tags.add(plant.selected)
    return (plant.document?.units ?? []).filter((u) => tags.has(u.tag)).map((u) => u.tag)
  })
  function toggle(tag: string) {
    const all = new Set(chosen.value)
    if (all.has(tag)) all.delete(tag)
    else all.add(tag)
    choose([...all])
  }
  function choose(tags: string[]) {
    group.value = tags.length > 1 ? tags : []
    plant.selected = tags[tags.length - 1] ?? null
  }
  function open(what: typeof dialog.value, about = '') {
    subject.value = about
    dialog.value = what
  }

  async function piece(name = '', text = '', free: { unit: string; field: string }[] = []): Promise<Piece | null> {
    const reply = await api.POST('/api/variants/{variant_id}/piece', {
      params: { path: { variant_id: plant.variant?.id ?? 0 } },
      body: { tags: chosen.value, name, text, free },
    })
    if (!reply.data) plant.notice = sentence(reply.error)
    return (reply.data?.piece as Piece | undefined) ?? null
  }
  /** Copied pieces outlive the page, so that they can be placed in another plant. */
  function copy(): Promise<boolean> {
    copying = take()
    return copying
  }
  async function take(): Promise<boolean> {
    if (!chosen.value.length) return false
    const taken = await piece()
    if (!taken) return false
    localStorage.setItem(CLIP, JSON.stringify(taken))
    return true
  }
  async function paste(): Promise<void> {
    await copying
    const kept = localStorage.getItem(CLIP)
    if (kept) await place(JSON.parse(kept) as Piece)
  }
  async function duplicate(): Promise<void> {
    if (await copy()) await paste()
  }
  /** On free paper below everything else; what was placed is chosen then. */
  async function place(what: Piece): Promise<void> {
    const units = plant.document?.units ?? []
    const before = new Set(units.map((u) => u.tag))
    const x = units.length ? Math.min(...units.map((u) => u.x ?? 0)) : 80
    const y = units.length ? Math.max(...units.map((u) => u.y ?? 0)) + 170 : 120
    const refused = await plant.edit({ kind: 'place_piece', piece: what as EditOf<'place_piece'>['piece'], x, y })
    if (refused) return
    choose((plant.document?.units ?? []).map((u) => u.tag).filter((tag) => !before.has(tag)))
    placed.value += 1
  }
  async function remove(): Promise<void> {
    const tags = chosen.value
    if (tags.length > 1) {
      const edits = tags.map((tag) => ({ kind: 'remove_unit' as const, tag }))
      await plant.edit({ kind: 'batch', edits, label: `removed ${tags.length} units` })
      group.value = []
    }
  }
  return {
    group,
    area,
    chosen,
    placed,
    overlay,
    dialog,
    subject,
    toggle,
    choose,
    open,
    piece,
    copy,
    paste,
    duplicate,
    place,
    remove,
  }
})
