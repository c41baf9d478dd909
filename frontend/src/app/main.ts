import '@fontsource/barlow-semi-condensed/latin-400.css'
import '@fontsource/barlow-semi-condensed/latin-600.css'
import 'element-plus/theme-chalk/dark/css-vars.css'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { provideGlobalConfig } from 'element-plus'
import { createApp } from 'vue'
import type { RouteLocation } from 'vue-router'
import App from './App.vue'
import { Refused } from '../api/client'
import { endEarly } from '../api/early'
import { askAhead } from '../stations/builds'
import { language, t } from '../kit/words'
import { router } from './router'
import './style.css'

const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 2000,
      // An answer is replaced whole, never changed within: its parts need no watching.
      shallow: true,
      retry: (count, error) => !(error instanceof Refused && error.problem.status) && count < 2,
    },
  },
})
async function ask({ name, params }: Pick<RouteLocation, 'name' | 'params'>) {
  const { buildId, valveId } = params
  if (buildId) await askAhead(queryClient, String(name), String(buildId), String(valveId ?? ''))
}
// The server works while the page is made.
const asked = ask(router.resolve(location.pathname)).finally(endEarly)
router.beforeEach((to) => void ask(to))

const app = createApp(App).use(router).use(VueQueryPlugin, { queryClient })
provideGlobalConfig(
  { locale: { name: language, el: { dialog: { close: t('Close') } } } },
  app,
  true,
)
/** Longer than this nobody looks at an empty page. */
const EMPTY_MS = 100
// Made once with what it shows is sooner there than made empty and then filled.
void Promise.race([
  Promise.all([router.isReady(), asked]),
  new Promise((late) => setTimeout(late, EMPTY_MS)),
]).finally(() => app.mount('#app'))
