import vue from '@vitejs/plugin-vue'
import AutoImport from 'unplugin-auto-import/vite'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import Components from 'unplugin-vue-components/vite'
import { defineConfig } from 'vite'
import { classicScripts } from './classicScripts.ts'
import { earlyScript } from './earlyScript.ts'

export default defineConfig({
  plugins: [
    classicScripts,
    earlyScript,
    vue(),
    AutoImport({
      resolvers: [ElementPlusResolver({ importStyle: 'css' })],
      dts: 'src/auto-imports.d.ts',
    }),
    Components({
      dirs: [],
      resolvers: [ElementPlusResolver({ importStyle: 'css' })],
      dts: 'src/components.d.ts',
    }),
  ],
  // A browser fetches two files sooner than forty: what every page has, and what stations share.
  build: {
    // A preload of a module is no script that is classic.
    modulePreload: false,
    rolldownOptions: {
      checks: { bundlerTimings: false },
      output: {
        codeSplitting: {
          groups: [
            { name: 'app', tags: ['$initial'], priority: 2 },
            { name: 'stations', minShareCount: 2, priority: 1 },
          ],
        },
      },
    },
  },
  // Without a compiler of messages, and without what nobody here uses.
  resolve: { alias: { 'vue-i18n': 'vue-i18n/dist/vue-i18n.runtime.mjs' } },
  define: {
    // SystemJS's answers later, and the loader of styles does without.
    'import.meta.resolve': 'undefined',
    __INTLIFY_DROP_MESSAGE_COMPILER__: true,
    __INTLIFY_PROD_DEVTOOLS__: false,
    __VUE_I18N_FULL_INSTALL__: false,
    __VUE_I18N_LEGACY_API__: false,
    __VUE_OPTIONS_API__: false,
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8610' } },
})
