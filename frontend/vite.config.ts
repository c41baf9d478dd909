import vue from '@vitejs/plugin-vue'
import AutoImport from 'unplugin-auto-import/vite'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import Components from 'unplugin-vue-components/vite'
import { defineConfig, type Plugin } from 'vite'

/**
 * Nearly all of a page's functions run while it opens: compiled at once they are kept compiled,
 * where a browser else compiles a thousand of them one by one at every opening.
 */
const compiledAtOnce: Plugin = {
  name: 'compiled-at-once',
  generateBundle: {
    order: 'post',
    handler(_, bundle) {
      for (const file of Object.values(bundle))
        if (file.type === 'chunk') file.code = `//# allFunctionsCalledOnLoad\n${file.code}`
    },
  },
}

export default defineConfig({
  plugins: [
    compiledAtOnce,
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
    rolldownOptions: {
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
    __INTLIFY_DROP_MESSAGE_COMPILER__: true,
    __INTLIFY_PROD_DEVTOOLS__: false,
    __VUE_I18N_FULL_INSTALL__: false,
    __VUE_I18N_LEGACY_API__: false,
    __VUE_OPTIONS_API__: false,
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8610' } },
})
