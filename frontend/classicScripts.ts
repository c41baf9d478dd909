/** The built pages as classic scripts. */
import { transformAsync } from '@babel/core'
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import type { Plugin } from 'vite'

const { resolve } = createRequire(import.meta.url)
/** Nearly all of a page's functions run while it opens: compiled at once they are kept compiled. */
export const AT_ONCE = '//# allFunctionsCalledOnLoad'
const ENTRY = /<script type="module" crossorigin src="(.+?)"><\/script>/

/**
 * Chunks in the format of SystemJS, and its loader.
 *
 * Chromium (seen in 156) takes what it has compiled before for classic scripts only; a module it
 * compiles anew at every opening.
 */
export const classicScripts: Plugin = {
  name: 'classic-scripts',
  apply: 'build',
  buildStart() {
    const source = readFileSync(resolve('systemjs/dist/s.min.js'), 'utf8')
    const alone = source.replace(/^\/\/# sourceMappingURL=.*$/m, '')
    this.emitFile({ type: 'asset', name: 'loader.js', source: alone })
  },
  transformIndexHtml: {
    order: 'post',
    handler(html, { bundle }) {
      const loader = Object.values(bundle ?? {}).find(
        (file) => file.type === 'asset' && file.names.includes('loader.js'),
      )
      const [module, entry] = ENTRY.exec(html) ?? []
      if (!loader || !module) throw new Error('index.html has no module to make classic')
      return {
        html: html.replace(module, ''),
        tags: [
          { tag: 'link', attrs: { rel: 'preload', as: 'script', href: entry }, injectTo: 'head' },
          { tag: 'script', attrs: { type: 'systemjs-module', src: entry }, injectTo: 'body' },
          { tag: 'script', attrs: { src: `/${loader.fileName}` }, injectTo: 'body' },
        ],
      }
    },
  },
  generateBundle: {
    order: 'post',
    async handler(_, bundle) {
      for (const file of Object.values(bundle)) {
        if (file.type !== 'chunk') continue
        const made = await transformAsync(file.code, {
          babelrc: false,
          configFile: false,
          compact: true,
          comments: false,
          plugins: ['@babel/transform-dynamic-import', '@babel/transform-modules-systemjs'],
        })
        file.code = `${AT_ONCE}\n${made?.code}`
      }
    },
  },
}
