<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, sentence, type Invited, type Project } from '../api/client'
import { useSession } from '../stores/session'
import PasswordDialog from './PasswordDialog.vue'
import ProjectPanel from './ProjectPanel.vue'
import SecondFactorDialog from './SecondFactorDialog.vue'
import MessageLine from './MessageLine.vue'
import VariantPanel from './VariantPanel.vue'
import { useTheme } from './theme'

const session = useSession()
const router = useRouter()
const { dark, toggle } = useTheme()
const projects = ref<Project[] | null>(null)
const name = ref('')
const message = ref('')
const file = ref<HTMLInputElement | null>(null)

const managed = ref<Project | null>(null)
const password = ref(false)
const factor = ref(false)
const archived = ref(false)
const query = ref('')
type Short = Project['variants'][number]
const tended = ref<{ project: Project; variant: Short } | null>(null)
/** What was deleted last, with the way back. */
const gone = ref<{ name: string; back: () => Promise<unknown> } | null>(null)
/** Rows of the table: archived variants stand with the archived projects; of a project found by a variant's name that variant. */
const shown = computed(() => {
  const words = query.value.toLowerCase()
  return (projects.value ?? []).flatMap((project) =>
    project.variants
      .filter((v) => archived.value || !v.archived)
      .filter((v) => [project.name, v.name].some((text) => text.toLowerCase().includes(words)))
      .map((variant) => ({ project, variant })),
  )
})
/** The server hands out projects fifty at a time. */
const PAGE = 50
const more = ref(false)

/** Invitations into projects of others. */
const invited = ref<Invited[]>([])
async function answerTo(invitation: Invited, way: 'POST' | 'DELETE') {
  const params = { path: { token: invitation.token } }
  const answer =
    way === 'POST'
      ? await api.POST('/api/invitations/{token}', { params, body: { username: '', password: '' } })
      : await api.DELETE('/api/invitations/{token}', { params })
  message.value = answer.data ? '' : sentence(answer.error)
  await load()
}
async function load() {
  const waiting = await api.GET('/api/invitations')
  invited.value = waiting.data ?? []
  await fetchPage(0)
}
async function fetchPage(after: number) {
  const asked = { archived: archived.value, q: query.value, after }
  const answer = await api.GET('/api/projects', { params: { query: asked } })
  if (asked.q !== query.value || asked.archived !== archived.value) return
  projects.value = [...(after ? (projects.value ?? []) : []), ...(answer.data ?? [])]
  more.value = answer.data?.length === PAGE
}
onMounted(load)
watch(archived, load)
watchDebounced(query, () => fetchPage(0), { debounce: 250 })

async function branch(project: Project, variant: number) {
  const source = project.variants.find((v) => v.id === variant)
  const answer = await api.POST('/api/variants/{variant_id}/branch', {
    params: { path: { variant_id: variant } },
    body: { name: `${source?.name}, branch ${project.variants.length}` },
  })
  message.value = answer.data ? '' : sentence(answer.error)
  await load()
}
async function copy(project: Project) {
  const params = { path: { project_id: project.id } }
  const answer = await api.POST('/api/projects/{project_id}/copy', { params, body: { name: `${project.name}, copy` } })
  message.value = answer.data ? '' : sentence(answer.error)
  await load()
}
async function deleted(project: Project) {
  managed.value = null
  const params = { path: { project_id: project.id } }
  gone.value = { name: project.name, back: () => api.POST('/api/projects/{project_id}/restore', { params }) }
  await load()
}
async function variantDeleted(variant: Short) {
  tended.value = null
  const params = { path: { variant_id: variant.id } }
  gone.value = { name: variant.name, back: () => api.POST('/api/variants/{variant_id}/restore', { params }) }
  await load()
}
async function bringBack() {
  await gone.value?.back()
  gone.value = null
  await load()
}

async function create() {
  message.value = ''
  if (!name.value.trim()) {
    message.value = 'A project needs a name.'
    return
  }
  const answer = await api.POST('/api/projects', { body: { name: name.value } })
  if (answer.data) await router.push(`/plant/${answer.data.id}/chemistry`)
  else message.value = sentence(answer.error)
}

async function upload(event: Event) {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  if (!chosen) return
  message.value = ''
  const answer = await api.POST('/api/projects/upload', {
    body: { file: chosen as unknown as string },
    bodySerializer: () => {
      const form = new FormData()
      form.append('file', chosen)
      return form
    },
  })
  if (file.value) file.value.value = ''
  if (answer.data) await router.push(`/plant/${answer.data.id}/sheet`)
  else message.value = `${chosen.name}: ${sentence(answer.error)}`
}

async function leave() {
  await session.signOut()
  await router.push('/sign-in')
}
</script>

<template>
  <div class="min-h-screen bg-paper">
    <header class="flex h-11 items-center gap-4 border-b border-rule px-4">
      <span class="font-semibold tracking-wide">Wattaxis</span>
      <span class="ml-auto text-ink2">{{ session.person?.username }}</span>
      <a v-if="session.person?.staff" class="link" href="/admin/">People</a>
      <RouterLink class="link" to="/help">Help</RouterLink>
      <button class="btn" @click="password = true">Password</button>
      <button class="btn" @click="factor = true">Second factor</button>
      <button class="btn" @click="toggle">{{ dark ? 'Light' : 'Dark' }}</button>
      <button class="btn" @click="leave">Sign out</button>
    </header>
    <main class="mx-auto grid max-w-[1160px] grid-cols-[1fr_240px] gap-10 px-4 py-8">
      <section aria-labelledby="projects-title">
        <div class="mb-3 flex items-center gap-4">
          <h1 id="projects-title" class="text-[18px] font-semibold">Projects</h1>
          <input v-model="query" class="input ml-auto w-[170px]!" placeholder="Search" aria-label="Search projects" />
          <label class="flex items-center gap-2"><input v-model="archived" type="checkbox" /> Archived</label>
        </div>
        <p v-if="gone" role="status" class="mb-3 border-l-3 border-act bg-actsoft px-3 py-2">
          {{ gone.name }} is deleted. <button class="link" @click="bringBack">Restore it</button>
        </p>
        <ul v-if="invited.length" class="mb-4" aria-label="Invitations">
          <li
            v-for="i in invited"
            :key="i.token"
            class="mb-1 flex items-center gap-3 border-l-3 border-act bg-actsoft px-3 py-2"
          >
            <span class="flex-1">{{ i.author || 'Somebody' }} invites you to {{ i.project }} as {{ i.role }}.</span>
            <button class="btn" :aria-label="`Join ${i.project}`" @click="answerTo(i, 'POST')">Join</button>
            <button class="btn" :aria-label="`Decline ${i.project}`" @click="answerTo(i, 'DELETE')">Decline</button>
          </li>
        </ul>
        <p v-if="projects && !projects.length && query" class="px-1 py-6 text-ink2">
          No project or variant has “{{ query }}” in its name.
        </p>
        <p v-else-if="projects && !projects.length" class="border border-dashed border-rule px-4 py-6 text-ink2">
          No project yet. Name one on the right, or open a flowsheet document from a file.
        </p>
        <table v-if="projects?.length" class="w-full border-collapse">
          <thead>
            <tr class="border-b border-rule text-left">
              <th scope="col" class="head py-1">Project</th>
              <th scope="col" class="head py-1">Variant</th>
              <th scope="col" class="head py-1 text-right">Units</th>
              <th scope="col" class="head py-1 text-right">Revision</th>
              <th scope="col" class="head py-1 pl-6">Changed</th>
              <th scope="col" class="head py-1">You are</th>
              <th scope="col"><span class="sr-only">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="{ project, variant: v } in shown" :key="v.id" class="border-b border-rule2">
              <td class="py-2">
                <RouterLink class="link" :to="`/plant/${v.id}/sheet`">{{ project.name }}</RouterLink>
              </td>
              <td>{{ v.name }}<span v-if="v.archived" class="text-ink2">, archived</span></td>
              <td class="text-right">{{ v.units }}</td>
              <td class="text-right">{{ v.revision }}</td>
              <td class="pl-6 text-ink2">{{ new Date(v.changed).toLocaleString('en-GB') }}</td>
              <td class="text-ink2">{{ project.role }}</td>
              <td class="text-right whitespace-nowrap">
                <template v-if="project.role !== 'reader'">
                  <button class="link" @click="branch(project, v.id)">Branch</button>
                  <button
                    class="link ml-3"
                    :aria-label="`Variant ${v.name} of ${project.name}`"
                    @click="tended = { project, variant: v }"
                  >
                    Variant
                  </button>
                </template>
                <button class="link ml-3" :aria-label="`Copy ${project.name}`" @click="copy(project)">Copy</button>
                <button class="link ml-3" :aria-label="`Manage ${project.name}`" @click="managed = project">
                  Manage
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <button v-if="more" class="btn mt-3" @click="fetchPage(projects?.length ?? 0)">More projects</button>
      </section>
      <section class="space-y-6">
        <form @submit.prevent="create">
          <h2 class="head mb-2">New project</h2>
          <label class="block">
            <span class="mb-1 block text-ink2">Name</span>
            <input v-model="name" class="input" name="project-name" maxlength="120" placeholder="Butanone plant" />
          </label>
          <button class="btn btn-main mt-2">Create</button>
        </form>
        <div>
          <h2 class="head mb-2">From a file</h2>
          <p class="mb-2 text-ink2">A flowsheet document (JSON) becomes a new project.</p>
          <button class="btn" @click="file?.click()">Choose a document</button>
          <input
            ref="file"
            type="file"
            class="sr-only"
            name="document"
            accept=".json,application/json"
            aria-label="Flowsheet document"
            @change="upload"
          />
        </div>
        <MessageLine :text="message" />
      </section>
    </main>
    <ProjectPanel :project="managed" :archived="archived" @close="managed = null" @changed="load" @deleted="deleted" />
    <VariantPanel
      :project="tended?.project ?? null"
      :variant="tended?.variant ?? null"
      @close="tended = null"
      @changed="load"
      @deleted="variantDeleted"
    />
    <PasswordDialog v-model:open="password" />
    <SecondFactorDialog v-model:open="factor" />
  </div>
</template>
