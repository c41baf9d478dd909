import { createRouter, createWebHistory } from 'vue-router'
import BoardPage from './stations/board/BoardPage.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'board', component: BoardPage },
    {
      path: '/builds/:buildId/set-up',
      name: 'setup',
      component: () => import('./stations/setup/SetupPage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/base-circle',
      name: 'wheel',
      component: () => import('./stations/wheel/WheelPage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/heads',
      name: 'map',
      component: () => import('./stations/map/MapPage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/zero-lash/:valveId',
      name: 'zero-lash',
      component: () => import('./stations/zero-lash/ZeroLashPage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/rocker/:valveId',
      name: 'arm',
      component: () => import('./stations/arm/ArmPage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/decide',
      name: 'decide',
      component: () => import('./stations/decide/DecidePage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/order',
      name: 'order',
      component: () => import('./stations/order/OrderPage.vue'),
      props: true,
    },
    {
      path: '/builds/:buildId/sign-off',
      name: 'signoff',
      component: () => import('./stations/signoff/SignOffPage.vue'),
      props: true,
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
