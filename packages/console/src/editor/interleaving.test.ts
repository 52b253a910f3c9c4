import { WisteriaProblem, type EditableEntry } from '@wisteria/client'
import {
  applyEdits,
  conflictsBetween,
  contentAt,
  emptyModel,
  printValues,
  readEdits,
  readModelFiles,
  readValues,
  resolveModel,
  type Edit,
  type NamedEdit,
} from '@wisteria/core'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { often } from '../../../../e2e/support/length.js'
import { locales, modelSite, randomBytes, settings, richText } from '../../../../e2e/support/models.js'
import { entryOf, nothing } from '../testing/desk'
import type { Site } from '../session'
import { ConflictingChanges, createWorkingCopy, type WorkingCopy } from './workingCopy'

const files = {
  story: `type: story
fields:
  title: { kind: text, localized: true }
  town: { kind: text }
  tags: { kind: text, many: true }
  tale: { kind: richText, localized: true }
  contact: { kind: group, fields: { phone: { kind: text }, note: { kind: text, localized: true } } }
  body: { kind: block, many: true, accepts: [words] }
  aside: { kind: block, many: true, localized: true, accepts: [words] }
`,
  words: `block: words
fields: { text: { kind: text, localized: true }, by: { kind: text } }
`,
}
const model = resolveModel(
  readModelFiles(Object.entries(files).map(([name, text]) => ({ name: `${name}.yaml`, text }))),
  emptyModel,
  modelSite,
)
const type = model.types[0]!
type Values = Record<string, unknown>
type Tale = ReturnType<typeof richText>

const words = (id: string, text: string, inside: boolean) => ({
  id,
  block: 'words',
  values: inside ? { text } : { text: { en: text } },
})
const start = (): Values => ({
  title: { en: 'title ', nl: 'titel ' },
  town: 'town ',
  tags: [
    { id: 'g1', value: 'tag ' },
    { id: 'g2', value: 'tag ' },
  ],
  tale: { en: richText('tale ', 'tail ', 'tell ') },
  contact: { phone: '1 ', note: { en: 'note ' } },
  body: [words('b1', 'one ', false), words('b2', 'two ', false), words('b3', 'three ', false)],
  aside: { nl: [words('a1', 'een ', true)] },
})

/** The service's handling of edits, by the same rules of core, without HTTP and SQL. */
function service() {
  const random = randomBytes(7)
  const read = readValues(model, type, start(), locales, random)
  expect(read.problems).toEqual([])
  let document = read.document
  const saves: Edit[][] = []
  const entry = (by: string): EditableEntry =>
    entryOf(JSON.parse(JSON.stringify(printValues(model, type, document))) as Values, {
      version: saves.length + 1,
      updatedBy: by,
    })
  let author = ''
  return {
    read: () => Promise.resolve(entry(author)),
    entry: () => entry(author),
    edit(by: string, base: number, named: readonly NamedEdit[]): EditableEntry & { merged: boolean } {
      const theirs = saves.slice(base - 1).flat()
      const { edits, problems } = readEdits(model, type, document, named, locales, random)
      const refuse = () => {
        throw new WisteriaProblem(409, { code: 'editConflict', detail: 'Somebody changed it.' })
      }
      const removed = theirs.some((edit) => edit.do === 'remove')
      if (problems.length > 0 && removed) refuse()
      expect(problems).toEqual([])
      if (conflictsBetween(edits, theirs).length > 0) refuse()
      document = applyEdits(document, edits)
      saves.push(edits)
      author = by
      return { ...entry(by), merged: theirs.length > 0 }
    },
  }
}

function desk(remote: ReturnType<typeof service>, actor: string, pending: (() => void)[]) {
  const later = <T>(work: () => T): Promise<T> =>
    new Promise((resolve, reject) =>
      pending.push(() => {
        try {
          resolve(work())
        } catch (error) {
          reject(error)
        }
      }),
    )
  const editor = {
    consequences: () => Promise.resolve(nothing),
    entry: () => later(() => remote.entry()),
    edit: (_: string, base: number, edits: NamedEdit[]) =>
      later(() => remote.edit(actor, base, structuredClone(edits))),
  }
  const site = {
    name: 'marram',
    editor,
    settings: { name: 'marram', ...settings },
    model,
    members: [],
    caller: { is: 'member', account: '', operator: false, role: 'editor' },
  } as unknown as Site
  return createWorkingCopy(site, type, remote.entry())
}

let token = 0
/** One edit; each leaves a word that is nowhere else. */
function write(copy: WorkingCopy, act: number, at: number): string {
  const word = `<${token++}>`
  const values = copy.values as {
    title?: Values
    town?: string
    tags?: { id: string; value: string }[]
    tale?: Values
    contact?: { phone?: string; note?: Values }
    body?: { id: string; values: { text: Values; by?: string } }[]
    aside?: Record<string, { id: string; values: { text: string } }[]>
  }
  const pick = <T>(list: T[] | undefined): T | undefined => list?.[at % Math.max(1, list.length)]
  switch (act) {
    case 0:
      values.title = { ...values.title, en: `${String(values.title?.['en'] ?? '')}${word}` }
      break
    case 1:
      values.title = { ...values.title, nl: `${String(values.title?.['nl'] ?? '')}${word}` }
      break
    case 2:
      values.town = `${values.town ?? ''}${word}`
      break
    case 3: {
      const tag = pick(values.tags)
      if (tag) tag.value += word
      else values.tags = [{ id: `t${token}`, value: word }]
      break
    }
    case 4:
      values.tags = [...(values.tags ?? []), { id: `t${token}`, value: word }]
      break
    case 5: {
      // In an existing paragraph, or a new one.
      const tale = (values.tale?.['en'] ?? richText()) as Tale
      const parent = at % 3 === 0 ? undefined : pick(tale.children)
      const paragraph = { ...richText(word).children[0]!, data: { id: `p${token}` } }
      const children = parent
        ? tale.children.map((child) =>
            child === parent
              ? { ...parent, children: [{ ...parent.children[0]!, value: `${parent.children[0]!.value}${word}` }] }
              : child,
          )
        : [...tale.children, paragraph]
      values.tale = { ...values.tale, en: { ...tale, children } }
      break
    }
    case 6:
      values.contact = { ...values.contact, phone: `${values.contact?.phone ?? ''}${word}` }
      break
    case 7: {
      const block = pick(values.body)
      if (block) block.values.text = { ...block.values.text, en: `${String(block.values.text['en'])}${word}` }
      else values.body = [words(`n${token}`, word, false)] as never
      break
    }
    case 8: {
      const block = pick(values.body)
      if (block) block.values.by = `${block.values.by ?? ''}${word}`
      else return ''
      break
    }
    case 9:
      values.body = [
        ...(values.body ?? []).slice(0, at),
        words(`n${token}`, word, false),
        ...(values.body ?? []).slice(at),
      ] as never
      break
    case 10: {
      const [first, ...rest] = values.body ?? []
      if (first) values.body = [...rest, first]
      return ''
    }
    case 11: {
      const block = pick(values.aside?.['nl'])
      if (block) block.values.text += word
      else values.aside = { nl: [words(`n${token}`, word, true)] } as never
      break
    }
    default:
      // Somebody removes a block: the words in it are lost with it, and no others.
      if (values.body && values.body.length > 1) {
        const gone = JSON.stringify(pick(values.body))
        values.body = values.body.filter((block) => JSON.stringify(block) !== gone)
        return `-${gone}`
      }
      return ''
  }
  return word
}

const tokensIn = (content: unknown): string[] => JSON.stringify(content ?? null).match(/<\d+>/g) ?? []

/** The random acts of two people, whose requests are answered at any time later, and in any order. */
async function play(acts: readonly (readonly [who: number, does: string, act: number, at: number])[]): Promise<void> {
  const remote = service()
  const pending: (() => void)[] = []
  const desks = [desk(remote, 'account:ilse', pending), desk(remote, 'account:teun', pending)]
  const saving: (Promise<unknown> | undefined)[] = [undefined, undefined]
  const written = new Set<string>()
  const givenUp = new Set<string>()
  const choose = (copy: WorkingCopy, side: 'ours' | 'theirs') => {
    const newest = copy.newer.value
    if (!newest) return
    const dropped = side === 'ours' ? newest.values : copy.values
    for (const conflict of copy.conflicts.value)
      for (const token of tokensIn(contentAt(dropped, conflict.at, conflict.locale))) givenUp.add(token)
    copy.choose(() => side)
  }
  const breathe = async () => {
    for (let turn = 0; turn < 12; turn++) await Promise.resolve()
  }
  const save = (who: number) =>
    (saving[who] ??= desks[who]!.save()
      .catch((error: unknown) => expect(error).toBeInstanceOf(ConflictingChanges))
      .finally(() => (saving[who] = undefined)))
  for (const [who, does, act, at] of acts) {
    const copy = desks[who]!
    if (does === 'write') {
      const word = write(copy, act, at)
      if (word.startsWith('-')) for (const token of tokensIn(word)) givenUp.add(token)
      else if (word !== '') written.add(word)
    } else if (does === 'save') void save(who)
    else if (does === 'hear' && !saving[who]) copy.take(remote.entry())
    else if (does === 'choose') choose(copy, at % 2 ? 'ours' : 'theirs')
    else pending.splice(at % Math.max(1, pending.length), 1)[0]?.()
    await breathe()
  }
  // Both end their work: everything is saved, and they see the same.
  for (let round = 0; round < 30; round++) {
    for (const [who, copy] of desks.entries()) {
      choose(copy, 'ours')
      const done = save(who)
      while (saving[who]) {
        pending.shift()?.()
        await breathe()
      }
      await done
    }
    if (desks.every((copy) => !copy.isChanged.value && copy.conflicts.value.length === 0)) break
  }
  for (const copy of desks) copy.take(remote.entry())
  expect(desks.map((copy) => copy.conflicts.value.length)).toEqual([0, 0])
  expect(desks[0]!.values).toEqual(remote.entry().values)
  expect(desks[1]!.values).toEqual(remote.entry().values)
  const left = new Set(tokensIn(remote.entry().values))
  expect([...written].filter((word) => !left.has(word) && !givenUp.has(word))).toEqual([])
}

describe('two people at one entry, at random', () => {
  const act = fc.tuple(
    fc.nat(1),
    fc.constantFrom('write', 'write', 'write', 'save', 'answer', 'answer', 'hear', 'choose'),
    fc.nat(12),
    fc.nat(4),
  )
  it('lose no word that nobody gave up', { timeout: 120_000 }, async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(act, { minLength: 5, maxLength: 40 }), (acts) => play(acts)),
      { numRuns: often(300, 5000) },
    )
  })
})
