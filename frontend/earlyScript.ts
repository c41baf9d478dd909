/** A script of its own that runs before the program is there. */
import { build, type Plugin, type Rolldown } from 'vite'
import { AT_ONCE } from './classicScripts.ts'

const SOURCE = 'src/app/early.ts'

/** `src/app/early.ts` as a file of its own, told the files of each page. */
export const earlyScript: Plugin = {
  name: 'early-script',
  apply: 'build',
  generateBundle: {
    order: 'pre',
    async handler(_, bundle) {
      const source = await compiled(pageFiles(bundle))
      this.emitFile({ type: 'asset', name: 'early.js', source })
    },
  },
  transformIndexHtml: {
    order: 'post',
    handler(_, { bundle }) {
      const file = Object.keys(bundle ?? {}).find((name) => name.startsWith('assets/early-'))
      if (!file) throw new Error('no early script was made')
      return [{ tag: 'script', attrs: { src: `/${file}` }, injectTo: 'head-prepend' }]
    },
  },
}

/** Scripts and styles that each page fetches once the program (`app`) is there, by its station. */
function pageFiles(bundle: Rolldown.OutputBundle) {
  const chunks = Object.values(bundle).filter((file) => file.type === 'chunk')
  const filesOf = (chunk: Rolldown.OutputChunk): string[] => [
    ...chunk.imports
      .flatMap((name) => chunks.filter((other) => other.fileName === name && other.name !== 'app'))
      .flatMap(filesOf),
    ...(chunk.viteMetadata?.importedCss ?? []),
    chunk.fileName,
  ]
  const pages = chunks.filter((chunk) => /Page\.vue$/.test(chunk.facadeModuleId ?? ''))
  return Object.fromEntries(
    pages.map((page) => [
      stationOf(page.name),
      [...new Set(filesOf(page))].map((name) => `/${name}`),
    ]),
  )
}

/** As its address has it: zero_lash of ZeroLashPage. */
const stationOf = (page: string) =>
  page
    .replace(/Page$/, '')
    .replace(/\B[A-Z]/g, (letter) => `_${letter}`)
    .toLowerCase()

async function compiled(files: Record<string, string[]>): Promise<string> {
  const made = await build({
    configFile: false,
    logLevel: 'warn',
    define: { PAGE_FILES: JSON.stringify(files) },
    build: { write: false, rolldownOptions: { input: SOURCE, output: { format: 'iife' } } },
  })
  const [chunk] = ((Array.isArray(made) ? made[0] : made) as Rolldown.RolldownOutput).output
  return `${AT_ONCE}\n${chunk.code}`
}
