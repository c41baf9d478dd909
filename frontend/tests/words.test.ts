/** Every sentence of the pages goes through one catalogue, and each has its German. */
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import ts from 'typescript'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { parse } from 'vue/compiler-sfc'
import texts from '../src/kit/words.de.json'

const german: Record<string, string> = texts
/** Words of the server's that pages print through the catalogue. */
const CODES = ['intake', 'exhaust', 'fits', 'too long', 'too short', 'caliper', 'indicator'].concat(
  ['published', 'common practice', 'from memory', 'geometry', 'measured', 'ball', 'cup'],
)
/** What is the same in every language: units, formats, the name of the program. */
const SAME =
  /^(in|mm|thou|abc|lbf|lbf·ft|lbf·in|N·m|oz|en|de|CSV|JSON|PDF|Vivid Arm|T|L|Z|Q|A|O|N|Y|C|\/pair|[\d.]+ (in|mm))$/

const sources = readdirSync('src', { recursive: true, encoding: 'utf8' })
  .filter((name) => /\.(vue|ts)$/.test(name) && !name.endsWith('.d.ts'))
  .map((name) => ({ name, text: readFileSync(join('src', name), 'utf8') }))

/** The texts that are asked for by name, with the file that asks. */
function asked(): Map<string, string> {
  const found = new Map<string, string>()
  const call = /(?<![\w.$])t\(\s*('(?:[^'\\]|\\.)*'|"(?:[^"\\]|\\.)*"|`(?:[^`\\$]|\\.)*`)/gs
  for (const { name, text } of sources)
    for (const [, quoted] of text.matchAll(call))
      found.set((quoted ?? '').slice(1, -1).replace(/\\(['"`\\])/g, '$1'), name)
  return found
}
const places = (text: string) => (text.match(/\{\w+\}/g) ?? []).sort()
const worded = (text: string) => /[A-Za-zÀ-ÿ]{2,}/.test(text) && !SAME.test(text.trim())

interface Node {
  type: number
  tag?: string
  content?: unknown
  children?: Node[]
  props?: { type: number; name: string; value?: { content: string }; exp?: Source }[]
}
interface Source {
  loc: { source: string }
}
const SHOWN = ['label', 'aria-label', 'title', 'placeholder', 'alt', 'hint', 'suffix']
/** What one of our own parts is given that nobody reads; all else it is given may be shown. */
const UNSEEN = ['accept', 'class', 'feel', 'field', 'id', 'ref', 'step', 'term', 'to']
const isShown = (tag: string, name: string) =>
  SHOWN.includes(name) || (/^[A-Z]/.test(tag) && !UNSEEN.includes(name))
/** Words that stand bare in a template: between tags, or in an attribute that is shown. */
function bare(node: Node): string[] {
  const own = node.type === 2 && worded(String(node.content)) ? [String(node.content).trim()] : []
  const inside = node.type === 5 ? [node.content as Source] : []
  const bound = (node.props ?? []).flatMap((p) => (p.type === 7 && p.exp ? [p.exp] : []))
  const worked = [...inside, ...bound].flatMap(({ loc }) => bareInScript(`(${loc.source})`))
  const attributes = (node.props ?? [])
    .filter((p) => p.type === 6 && isShown(node.tag ?? '', p.name))
    .map((p) => p.value?.content ?? '')
    .filter(worded)
  return [...own, ...worked, ...attributes, ...(node.children ?? []).flatMap(bare)]
}

const SAID = ['words', 'does', 'detail', 'label', 'caption']
const SENTENCE = /^[^[]*[A-Za-z]{2,},? [a-z]{2,},? [a-z]{2,}/
/** Selectors, and codes of the server's that hold blanks. */
const CODED = ['button, input, select', 'at the limit']
/** Words that stand bare in a script: as the value of what is shown, or as a sentence anywhere. */
function bareInScript(script: string): string[] {
  const found: string[] = []
  const visit = (node: ts.Node) => {
    if (ts.isImportDeclaration(node) || ts.isTypeNode(node)) return
    if (ts.isCallExpression(node) && node.expression.getText() === 't') {
      node.arguments.slice(1).forEach(visit)
      return
    }
    const text = ts.isStringLiteralLike(node)
      ? node.text
      : ts.isTemplateExpression(node)
        ? [node.head.text, ...node.templateSpans.map((s) => s.literal.text)].join('…')
        : ''
    const shown = ts.isPropertyAssignment(node.parent) && SAID.includes(node.parent.name.getText())
    if ((SENTENCE.test(text) && !CODED.includes(text)) || (shown && worded(text))) found.push(text)
    ts.forEachChild(node, visit)
  }
  ts.createSourceFile('script.ts', script, ts.ScriptTarget.Latest, true).statements.forEach(visit)
  return found
}

describe('the catalogue of the pages', () => {
  it('has every text, and no text that nobody asks for', () => {
    const wanted = new Set([...asked().keys(), ...CODES])
    expect([...wanted].filter((text) => !(text in german))).toEqual([])
    expect(Object.keys(german).filter((text) => !wanted.has(text))).toEqual([])
  })

  it('puts the same figures into both languages', () => {
    const unlike = Object.entries(german).filter(
      ([text, said]) => places(text).join() !== places(said).join(),
    )
    expect(unlike).toEqual([])
  })

  it('leaves no sentence outside', () => {
    const outside = sources.flatMap(({ name, text }) => {
      if (!name.endsWith('.vue')) return bareInScript(text).map((said) => `${name}: ${said}`)
      const { descriptor } = parse(text)
      const template = descriptor.template?.ast ? bare(descriptor.template.ast as Node) : []
      const script = bareInScript(descriptor.scriptSetup?.content ?? '')
      return [...template, ...script].map((said) => `${name}: ${said}`)
    })
    expect(outside).toEqual([])
  })
})

describe('a page in German', () => {
  beforeEach(() => {
    localStorage.setItem('vivid-arm.language', 'de')
    vi.resetModules()
  })
  afterEach(() => {
    localStorage.removeItem('vivid-arm.language')
    vi.resetModules()
  })

  it('says it in German, figures put in and written with a comma', async () => {
    const { t } = await import('../src/kit/words')
    const { length } = await import('../src/kit/format')
    expect(t('Preload')).toBe('Vorspannung')
    expect(t('Cylinder {cylinder} {kind}', { cylinder: 3, kind: t('intake') })).toBe(
      'Zylinder 3 Einlass',
    )
    expect(length(7.3375, 'in')).toBe('7,3375 in')
    expect(document.documentElement.lang).toBe('de')
  })
})
