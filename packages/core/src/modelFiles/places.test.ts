import { describe, expect, it } from 'vitest'
import { asFiles, files, makeModel, model, modelSite, settings, type } from '../../../../e2e/support/models.js'
import type { WisteriaError } from '../base/errors.js'
import { asksFor } from '../conditions/condition.js'
import { readCondition } from '../conditions/check.js'
import { statesOf, summaryOf } from '../publishing/state.js'
import { consequencesOf } from './consequences.js'
import { readModelFiles } from './files.js'
import { resolveModel } from './resolve.js'

const page = (more: string, fields = '') =>
  files.page.replace('parent: inPage\n', `parent: inPage\n${more}`).replace('  inPage:', `${fields}  inPage:`)
const ordered =
  '  place: { kind: number }\n  inMenu: { kind: boolean }\n  words: { kind: text, localized: true }\n  more: { kind: number, many: true }\n'
const mistakes = (texts: Readonly<Record<string, string>>): string[] => {
  try {
    resolveModel(readModelFiles(asFiles(texts)), model, modelSite)
    return []
  } catch (error) {
    return (error as WisteriaError).problems.map((problem) => problem.message)
  }
}

describe('places in the model', () => {
  it('are said by fields: a parent, a number that orders, a boolean for menus', () => {
    const model = makeModel({ ...files, page: page('order: place\nmenu: inMenu\nroot: false\n', ordered) })
    expect(model.types.find((candidate) => candidate.name === 'page')).toMatchObject({
      parent: 'inPage',
      order: 'place',
      menu: 'inMenu',
      root: false,
    })
  })
  it.each([
    ['order: inMenu\n', /`order` must name a field of kind number/],
    ['order: more\n', /`order` must name a field of kind number/],
    ['order: plaace\n', /Did you mean `place`/],
    ['menu: place\n', /`menu` must name a field of kind boolean/],
    ['drafts: maybe\n', /drafts/],
  ])('are refused where they do not fit: %j', (more, message) => {
    expect(mistakes({ ...files, page: page(more, ordered) }).join(' ')).toMatch(message)
  })
  it('may hold several types that have paths, and no others', () => {
    const both = files.page.replace('accepts: [page]', 'accepts: [page, museum]')
    expect(mistakes({ ...files, page: both })).toEqual([])
    const pathless = files.page.replace('accepts: [page]', 'accepts: [page, person]')
    expect(mistakes({ ...files, page: pathless }).join(' ')).toMatch(/of types that have paths/)
    expect(mistakes({ ...files, museum: files.museum.replace('namedBy', 'root: false\nnamedBy') })[0]).toMatch(
      /needs `parent:`/,
    )
  })
  it('tell what changes when they do', () => {
    const told = (texts: Readonly<Record<string, string>>) =>
      consequencesOf(model, makeModel(texts, model), {})
        .filter((consequence) => consequence.code === 'typeChanged')
        .map((consequence) => consequence.message)
    const without = { ...files, museum: files.museum.replace('namedBy', 'drafts: false\nnamedBy') }
    expect(told(without)).toEqual([expect.stringMatching(/From now on a save publishes at once/)])
    const back = consequencesOf(makeModel(without), makeModel(files, makeModel(without)), {})
    expect(back.map((consequence) => consequence.message).join(' ')).toMatch(/A save no longer publishes/)
    expect(told({ ...files, page: page('root: false\n') }).join(' ')).toMatch(/need a parent to be published/)
    expect(told({ ...files, page: page('order: place\n', ordered) }).join(' ')).toMatch(
      /Another field says how entries are ordered/,
    )
  })
})

describe('what is archived', () => {
  it('is so in every locale, whatever was public of it', () => {
    const states = statesOf(
      model,
      type('museum'),
      {},
      { layers: undefined, withdrawn: ['en'], archived: true },
      settings,
    )
    expect([states, summaryOf(states)]).toEqual([
      { en: 'archived', nl: 'archived', 'nl-BE': 'archived', ar: 'archived' },
      'archived',
    ])
  })
  it('is asked for by conditions that speak of states, at any depth', () => {
    const context = { model, owners: [type('activity')], systemFacts: ['state', 'updated'], timeZone: 'UTC' } as const
    const asks = (text: string) =>
      asksFor(readCondition(text, { ...context, systemFacts: [...context.systemFacts] }).condition, 'state')
    expect(
      ['entry.state = "new"', 'not (price > 3 or entry.state != "new")', 'entry.state in ["new", "public"]'].map(asks),
    ).toEqual([true, true, true])
    expect(['price > 3', 'entry.updated > now', 'any speakers (name = "A")'].map(asks)).toEqual([false, false, false])
  })
})
