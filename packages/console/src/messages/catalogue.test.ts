import { fieldKinds } from '@wisteria/core'
import { mount } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import { h, nextTick } from 'vue'
import MessageText from '../components/MessageText.vue'
import { textsInSource } from '../testing/textsInSource'
import { ar } from './ar'
import { en } from './en'
import { languageFor, speak } from './language'
import { nl } from './nl'
import { i18n, problemMessage, t, type MessageKey } from './index'

const sources = Object.entries(
  import.meta.glob<string>(['../**/*.{vue,ts}', '!../**/*.test.ts', '!../testing/**', '!./**'], {
    query: '?raw',
    import: 'default',
    eager: true,
  }),
)

function keysOf(tree: object, path = ''): MessageKey[] {
  return Object.entries(tree).flatMap(([name, below]: [string, unknown]) =>
    typeof below === 'object' ? keysOf(below as object, `${path}${name}.`) : [`${path}${name}` as MessageKey],
  )
}
const keys = keysOf(en)

/** Strings that are no texts: names of formats and keys, and strings for programs. */
const notTexts = new Set([
  'REST', 'GraphQL', 'SDK', 'curl', 'JSON Lines', 'CSV', 'XLSX', 'auto', 'published', 'draft',
  'where', 'search', 'sort', 'pick', 'first', 'locale', 'edition',
  'Ctrl+K', 'ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight', 'Enter', 'Escape', 'Delete', 'Mod-Enter',
  'WrittenValue', 'RichText', 'D MMM YYYY', 'D MMM YYYY, HH:mm', 'YYYY-MM-DD',
  'wisteria block', 'working copy', 'GET /read/v1/…/entries/……', 'Bearer …',
  '/trips/{slug}', '/activities/night-walk', 'en', 'name', 'title, museum(name)', '{ "first": 5 }', '-entry.updated',
  'format = "walk"', 'format = "walk" and starts >= now',
]) // prettier-ignore
/** Files with words of other languages: of HTML, of shells and programs. */
const codeFiles = [
  'controls/pasted.ts',
  'query/question.ts',
  'query/examples.ts',
  'today/lists.ts',
  'lastActs/command.ts',
  'lastActs/request.ts',
]

describe('the catalogue', () => {
  afterEach(() => (i18n.global.locale.value = 'en'))

  it('holds every text of the console', () => {
    expect(sources.length).toBeGreaterThan(100)
    const outside = sources
      .filter(([name]) => !codeFiles.some((file) => name.endsWith(file)))
      .flatMap(([name, source]) => textsInSource(name, source).map((text) => `${name}: ${text}`))
      .filter((line) => !notTexts.has(line.slice(line.indexOf(': ') + 2)))
    expect(outside).toEqual([])
  })

  it('is searched by a test that finds a text wherever it can stand', () => {
    const page = `<script setup lang="ts">
const done = 'Saved.'
const found = \`Found \${1} of them\`
const known = t('common.yes') === 'Yes' ? ['Enter'].includes(found) : document.querySelector('input, textarea')
</script>
<template><p title="What it is" class="some class">Words <b>{{ one ? 'One more' : t('common.no') }}</b></p><code>as typed</code></template>`
    expect(textsInSource('Page.vue', page)).toEqual(['Saved.', 'Found … of them', 'What it is', 'Words', 'One more'])
    expect(textsInSource('page.ts', "export const x = { a: 'Two words', b: 'identifier', c: 'two words' }")).toEqual([
      'Two words',
      'two words',
    ])
  })

  it('holds no text that nobody shows', () => {
    const all = sources.map(([, source]) => source).join('\n')
    const isAsked = (key: string): boolean =>
      all.includes(`'${key}'`) ||
      all.includes(`"${key}"`) ||
      key.split('.').some((_, at, parts) => at > 0 && all.includes('`' + parts.slice(0, at).join('.') + '.${'))
    expect(keys.filter((key) => !isAsked(key))).toEqual([])
  })

  it('can be printed, every text of it', () => {
    const print = t as unknown as (key: string, parameters: object) => string
    const parameters = new Proxy({}, { get: (_, name) => (name === 'n' ? 2 : '…'), has: () => true })
    const texts = keys.map((key) => [key, print(key, parameters)] as const)
    expect(texts.length).toBeGreaterThan(700)
    expect(texts.filter(([key, text]) => text === key || /[{}|]/.test(text))).toEqual([])
  })

  it('chooses the form of a plural', () => {
    expect([0, 1, 2].map((n) => t('lists.entryCount', { n }))).toEqual(['0 entries', '1 entry', '2 entries'])
  })

  it('puts elements where a text has parameters', () => {
    const text = () => h(MessageText, { of: 'site.areAdded', n: 2 }, { locales: () => h('code', 'de, fr') })
    const { element } = mount(() => h('p', text()))
    expect([element.textContent, element.querySelector('code')?.textContent]).toEqual(['de, fr are added', 'de, fr'])
  })

  it('is complete in Dutch, with the same parameters and forms of plurals', () => {
    const { problems: _, forms: __, kinds, ...texts } = nl
    expect(Object.keys(kinds).sort()).toEqual(fieldKinds.map(({ name }) => name).sort())
    expect(keysOf(texts)).toEqual(keys)
    const textAt = (tree: object, key: string): string =>
      key.split('.').reduce<unknown>((at, name) => (at as Record<string, unknown>)[name], tree) as string
    const partsOf = (text: string) => [
      [...new Set(text.match(/\{\w+\}/g) ?? [])].sort().join(' '),
      text.split(' | ').length,
    ]
    expect(keys.filter((key) => String(partsOf(textAt(en, key))) !== String(partsOf(textAt(nl, key))))).toEqual([])
  })

  it('holds no text in Arabic that there is none of in English', () => {
    expect(keysOf(ar).filter((key) => !keys.includes(key))).toEqual([])
  })

  it('is spoken in the first language of a reader that there is', async () => {
    expect([languageFor(['fr', 'nl-BE', 'en']), languageFor(['de']), languageFor([])]).toEqual(['nl', 'en', 'en'])
    await speak('ar')
    expect([document.documentElement.dir, t('common.save'), t('common.discardChanges')]).toEqual([
      'rtl',
      'حفظ',
      '\u2066Discard changes\u2069',
    ])
    await speak('nl')
    expect([document.documentElement.lang, document.documentElement.dir, t('common.save')]).toEqual([
      'nl',
      'ltr',
      'Opslaan',
    ])
    await speak('en')
  })

  it('speaks another language at once, and English where that lacks a text', async () => {
    const page = mount(() => h('p', [t('common.save'), ' ', t('common.cancel')]))
    expect(page.text()).toBe('Save Cancel')
    i18n.global.setLocaleMessage('nl', { common: { save: 'Opslaan' } })
    i18n.global.locale.value = 'nl'
    await nextTick()
    expect(page.text()).toBe('Opslaan Cancel')
  })

  it('words a problem in that language by its code and parameters, and leaves it in English where it cannot', () => {
    const problem = { code: 'tooLong', message: 'Title has 9 characters, at most 5 fit.', pointer: '/values/title' }
    const told = { ...problem, parameters: { field: 'Title', size: 9, max: 5 } }
    expect(problemMessage(told)).toBe(problem.message)
    i18n.global.setLocaleMessage('nl', {
      problems: { tooLong: '{field} heeft {size} tekens, hoogstens {max} passen.' },
    })
    i18n.global.locale.value = 'nl'
    expect(problemMessage(told)).toBe('Title heeft 9 tekens, hoogstens 5 passen.')
    expect(problemMessage({ ...told, code: 'tooShort' })).toBe(problem.message)
  })
})
