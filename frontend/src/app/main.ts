import '@fontsource/barlow-semi-condensed/latin-400.css'
import '@fontsource/barlow-semi-condensed/latin-600.css'
import 'element-plus/theme-chalk/dark/css-vars.css'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from './App.vue'
import { Refused } from '../api/client'
import { askAhead } from '../stations/builds'
import { router } from './router'
import './style.css'

const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 2000,
      retry: (count, error) => !(error instanceof Refused && error.problem.status) && count < 2,
    },
  },
})
router.beforeEach(({ name, params }) => {
  const { buildId, valveId } = params
  if (buildId) askAhead(queryClient, String(name), String(buildId), String(valveId ?? ''))
})

createApp(App).use(router).use(VueQueryPlugin, { queryClient }).mount('#app')
