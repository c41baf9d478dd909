import { nextTick } from 'vue'
import { createRouter, createWebHistory } from 'vue-router'
import { allRead, endEntry } from '../kit/entries'
import { leaving } from '../kit/leftBehind'

/** The addresses of the pages; a page is left when what was typed on it has been read. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'board', component: () => import('../stations/board/BoardPage.vue') },
    {
      path: '/builds/:buildId/setup',
      name: 'setup',
      component: () => import('../stations/setup/SetupPage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/base_circle',
      name: 'base_circle',
      component: () => import('../stations/base_circle/BaseCirclePage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/heads',
      name: 'heads',
      component: () => import('../stations/heads/HeadsPage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/zero_lash/:valveId',
      name: 'zero_lash',
      component: () => import('../stations/zero_lash/ZeroLashPage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/rocker/:valveId',
      name: 'rocker',
      component: () => import('../stations/rocker/RockerPage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/decide',
      name: 'decide',
      component: () => import('../stations/decide/DecidePage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/order',
      name: 'order',
      component: () => import('../stations/order/OrderPage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/sign_off',
      // The address in the QR codes of reports printed before.
      alias: '/builds/:buildId/sign-off',
      name: 'sign_off',
      component: () => import('../stations/sign_off/SignOffPage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/history',
      name: 'history',
      component: () => import('../stations/history/HistoryPage.vue'),
      props: true,
    },
    {
      path: '/history',
      name: 'shop_history',
      component: () => import('../stations/history/HistoryPage.vue'),
    },
    {
      path: '/learned',
      name: 'learned',
      component: () => import('../stations/shop/LearnedPage.vue'),
    },
    {
      path: '/people',
      name: 'people',
      component: () => import('../stations/accounts/PeoplePage.vue'),
    },
    // The door itself stands over every page: here there is nothing behind it.
    { path: '/pair', name: 'pair', component: { render: () => null } },
    {
      path: '/practice',
      name: 'practice',
      component: () => import('../stations/practice/PracticePage.vue'),
    },
    {
      path: '/practice/:exerciseId',
      name: 'ending',
      component: () => import('../stations/practice/EndingPage.vue'),
      props: true,
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
// What cannot be read is brought into sight once; whoever goes again leaves it behind.
router.beforeEach(async (to, from) => {
  if (to.path !== from.path) endEntry()
  const read = await allRead()
  leaving.value = read
  if (read) return true
  await nextTick()
  const refused = document.querySelector<HTMLElement>('[aria-invalid="true"]')
  refused?.scrollIntoView({ block: 'center' })
  // Going "back" takes the hand out of it.
  if (document.activeElement === document.body) refused?.focus()
  return false
})
router.afterEach(() => (leaving.value = false))
router.onError(() => (leaving.value = false))
