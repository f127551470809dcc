<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, ref, watch } from 'vue'
import { api, sentence, type Project } from '../api/client'
import MessageLine from './MessageLine.vue'

/** People, name, archive and deletion of one project. */
const props = defineProps<{ project: Project | null; archived: boolean }>()
const emit = defineEmits<{ close: []; changed: []; deleted: [project: Project] }>()
const people = ref<{ username: string; role: string }[]>([])
const name = ref('')
const guest = ref('')
const role = ref<'owner' | 'editor' | 'reader'>('editor')
const message = ref('')
const good = ref(false)
const invitations = ref<{ id: number; guest: string; role: string }[]>([])
const owner = computed(() => props.project?.role === 'owner')
const path = computed(() => ({ path: { project_id: props.project?.id ?? 0 } }))
const ROLES = ['owner', 'editor', 'reader'] as const

watch(
  () => props.project,
  async (project) => {
    message.value = ''
    good.value = false
    guest.value = ''
    invitations.value = []
    name.value = project?.name ?? ''
    people.value = []
    if (!project) return
    const answer = await api.GET('/api/projects/{project_id}/members', { params: path.value })
    people.value = answer.data ?? []
    if (!owner.value) return
    const waiting = await api.GET('/api/projects/{project_id}/invitations', { params: path.value })
    invitations.value = waiting.data ?? []
  },
)
/** A mail address gets a link that makes an account; whoever has the user name finds the invitation among their projects. */
async function invite() {
  const body = { guest: guest.value.trim(), role: role.value }
  const answer = await api.POST('/api/projects/{project_id}/invitations', { params: path.value, body })
  good.value = !!answer.data
  const sent = body.guest.includes('@')
    ? `A mail with a link is on its way to ${body.guest}.`
    : `Whoever has the user name ${body.guest} finds the invitation above their projects.`
  message.value = answer.data ? sent : sentence(answer.error)
  invitations.value = answer.data ?? invitations.value
  if (answer.data) guest.value = ''
}
async function takeBack(id: number) {
  const params = { path: { ...path.value.path, invitation_id: id } }
  const answer = await api.DELETE('/api/projects/{project_id}/invitations/{invitation_id}', { params })
  good.value = false
  message.value = answer.data ? '' : sentence(answer.error)
  invitations.value = answer.data ?? invitations.value
}
async function setRole(username: string, next: string) {
  const body = { username, role: next as (typeof ROLES)[number] }
  const answer = await api.PUT('/api/projects/{project_id}/members', { params: path.value, body })
  message.value = answer.data ? '' : sentence(answer.error)
  if (answer.data) people.value = answer.data
  else {
    const again = await api.GET('/api/projects/{project_id}/members', { params: path.value })
    people.value = again.data ?? []
  }
}
async function takeOut(username: string) {
  const params = { path: { ...path.value.path, username } }
  const answer = await api.DELETE('/api/projects/{project_id}/members/{username}', { params })
  message.value = answer.data ? '' : sentence(answer.error)
  if (answer.data) people.value = people.value.filter((p) => p.username !== username)
}
async function change(body: { name?: string; archived?: boolean }) {
  const answer = await api.PATCH('/api/projects/{project_id}', { params: path.value, body })
  message.value = answer.data ? '' : sentence(answer.error)
  if (!answer.data) return
  emit('changed')
  emit('close')
}
async function remove() {
  const answer = await api.DELETE('/api/projects/{project_id}', { params: path.value })
  message.value = answer.data ? '' : sentence(answer.error)
  if (answer.data && props.project) emit('deleted', props.project)
}
</script>

<template>
  <Dialog :open="!!project" class="relative z-50" @close="emit('close')">
    <div class="fixed inset-0 bg-black/25" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center">
      <DialogPanel class="w-[520px] border border-rule bg-paper p-6 text-ink shadow-xl">
        <div class="mb-4 flex items-center justify-between">
          <DialogTitle class="text-[16px] font-semibold">{{ project?.name }}</DialogTitle>
          <button class="btn" @click="emit('close')">Close</button>
        </div>
        <MessageLine class="mb-3" :text="message" :good="good" />
        <form v-if="owner" class="mb-5 flex items-end gap-2" @submit.prevent="change({ name })">
          <label class="flex-1">
            <span class="mb-1 block text-ink2">Name</span>
            <input v-model="name" class="input" name="rename-project" maxlength="120" />
          </label>
          <button class="btn">Rename</button>
        </form>
        <h3 class="head mb-1">People</h3>
        <ul class="mb-2">
          <li v-for="p in people" :key="p.username" class="flex items-center gap-3 border-b border-rule2 py-1">
            <span class="flex-1">{{ p.username }}</span>
            <select
              class="input w-auto! py-[2px]!"
              :value="p.role"
              :disabled="!owner"
              :aria-label="`Role of ${p.username}`"
              @change="setRole(p.username, ($event.target as HTMLSelectElement).value)"
            >
              <option v-for="r in ROLES" :key="r">{{ r }}</option>
            </select>
            <button
              v-if="owner"
              class="btn py-[2px]!"
              :aria-label="`Remove ${p.username}`"
              @click="takeOut(p.username)"
            >
              Remove
            </button>
          </li>
          <li
            v-for="i in invitations"
            :key="i.guest"
            class="flex items-center gap-3 border-b border-rule2 py-1 text-ink2"
          >
            <span class="flex-1">{{ i.guest }}, invited as {{ i.role }}</span>
            <button class="btn py-[2px]!" :aria-label="`Withdraw the invitation of ${i.guest}`" @click="takeBack(i.id)">
              Take back
            </button>
          </li>
        </ul>
        <form v-if="owner" class="mb-5 flex items-end gap-2" @submit.prevent="invite">
          <label class="flex-1">
            <span class="mb-1 block text-ink2">Invite by user name or mail address</span>
            <input v-model="guest" class="input" name="invite" />
          </label>
          <select v-model="role" class="input w-auto!" aria-label="Role of the invited person">
            <option v-for="r in ROLES" :key="r">{{ r }}</option>
          </select>
          <button class="btn" :disabled="!guest.trim()">Invite</button>
        </form>
        <div v-if="owner" class="flex gap-2 border-t border-rule pt-3">
          <button class="btn" @click="change({ archived: !archived })">
            {{ archived ? 'Restore from the archive' : 'Archive' }}
          </button>
          <button class="btn ml-auto" @click="remove">Delete project</button>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
