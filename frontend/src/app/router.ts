import { createRouter, createWebHistory } from 'vue-router'
import { useSession } from '../stores/session'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/sign-in', component: () => import('./SignIn.vue') },
    { path: '/reset', component: () => import('./ResetPassword.vue'), meta: { open: true } },
    { path: '/reset/:person/:token', component: () => import('./ResetPassword.vue'), meta: { open: true } },
    { path: '/shared/:token', component: () => import('./SharedLink.vue'), meta: { open: true } },
    { path: '/invited/:token', component: () => import('./Invited.vue'), meta: { open: true } },
    { path: '/help', redirect: '/help/guide' },
    { path: '/help/:slug', component: () => import('./HelpPage.vue'), meta: { shared: true } },
    { path: '/', component: () => import('./Projects.vue') },
    {
      path: '/plant/:id(\\d+)',
      component: () => import('./PlantFrame.vue'),
      meta: { shared: true },
      children: [
        { path: '', redirect: (to) => `${to.path.replace(/\/$/, '')}/sheet` },
        {
          path: 'chemistry',
          component: () => import('../chemistry/ChemistryFrame.vue'),
          children: [
            { path: '', component: () => import('../chemistry/ChemistryPage.vue') },
            { path: 'reactions', component: () => import('../reactions/ReactionsPage.vue') },
            { path: 'data', component: () => import('../data/DataPage.vue') },
            { path: 'diagrams', component: () => import('../diagrams/DiagramPage.vue') },
          ],
        },
        { path: 'studies', component: () => import('../studies/StudiesPage.vue') },
        { path: 'compare', component: () => import('./ComparePage.vue') },
        {
          path: 'sheet',
          children: [
            { path: '', component: () => import('../sheet/SheetPage.vue') },
            { path: 'unit/:tag', component: () => import('../unit/UnitPage.vue') },
          ],
        },
      ],
    },
    { path: '/:rest(.*)', redirect: '/' },
  ],
})

router.beforeEach(async (to) => {
  const session = useSession()
  await session.load()
  const admitted = session.person || to.meta.open || (session.shared && to.meta.shared)
  if (!admitted && to.path !== '/sign-in') return { path: '/sign-in', query: { to: to.fullPath } }
  if (session.person && to.path === '/sign-in') return String(to.query.to ?? '/')
  return true
})
