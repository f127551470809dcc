import { createRouter, createWebHistory } from 'vue-router'
import { useSession } from '../stores/session'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/sign-in', component: () => import('./SignIn.vue') },
    { path: '/reset', component: () => import('./ResetPassword.vue'), meta: { open: true } },
    { path: '/reset/:person/:token', component: () => import('./ResetPassword.vue'), meta: { open: true } },
    { path: '/', component: () => import('./Projects.vue') },
    {
      path: '/plant/:id(\\d+)',
      component: () => import('./PlantFrame.vue'),
      children: [
        { path: '', redirect: (to) => `${to.path.replace(/\/$/, '')}/sheet` },
        { path: 'chemistry', component: () => import('../chemistry/ChemistryPage.vue') },
        { path: 'sheet', component: () => import('../sheet/SheetPage.vue') },
      ],
    },
    { path: '/:rest(.*)', redirect: '/' },
  ],
})

router.beforeEach(async (to) => {
  const session = useSession()
  await session.load()
  if (!session.person && to.path !== '/sign-in' && !to.meta.open)
    return { path: '/sign-in', query: { to: to.fullPath } }
  if (session.person && to.path === '/sign-in') return '/'
  return true
})
