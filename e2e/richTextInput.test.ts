import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Editor, WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runIn } from './support/commands.js'
import { asFiles, refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let folder: string
let published: string
beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  const tale =
    'type: tale\nfields:\n  title: { kind: text }\n  story: { kind: richText, localized: true, accepts: [tale] }\n  notes: { kind: richText, many: true }\n'
  await owner.adoptModel((await owner.compareModel(asFiles({ tale }))).id)
  published = (await owner.createKey({ label: 'Website', scope: 'published' })).secret
  folder = mkdtempSync(join(tmpdir(), 'wisteria-rich-text-'))
})
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true })
  await small.service.end()
})

const run = (...args: string[]) =>
  runIn(folder, args, { WISTERIA_URL: small.service.baseUrl, WISTERIA_SITE: 'marram', WISTERIA_TOKEN: small.token })
const htmlOf = async (id: string): Promise<unknown> => {
  const response = await fetch(
    `${small.service.baseUrl}/read/v1/marram/entries/tale/${id}?pick=story,notes&richText=html&locale=en`,
    { headers: { Authorization: `Bearer ${published}` } },
  )
  return ((await response.json()) as { values: unknown }).values
}

describe('rich text sent as Markdown or HTML', () => {
  it('becomes a document, wherever values are sent: a new entry, an edit, a merge patch', async () => {
    const other = await owner.create({ type: 'tale', values: { title: 'The wreck' } })
    const { id, version } = await owner.create({
      type: 'tale',
      values: {
        title: 'Ghosts',
        story: { en: { markdown: `# One\n\nSee [it](entry:${other.id}).` } },
        notes: [{ html: '<p>First <b>note</b>' }, { value: { markdown: 'Second' } }],
      },
    })
    const published = await owner.publish(id)
    expect(await htmlOf(id)).toEqual({
      story: '<h2>One</h2>\n<p>See it.</p>',
      notes: ['<p>First <strong>note</strong></p>', '<p>Second</p>'],
    })
    const before = (await owner.entry(id)).values['story'] as { en: { children: { data: { id: string } }[] } }
    const edited = await owner.edit(id, published.version, [
      { do: 'set', at: ['story'], locale: 'en', value: { markdown: `# One\n\nGone.` } },
    ])
    const after = edited.values['story'] as typeof before
    expect(after.en.children[0]!.data.id).toBe(before.en.children[0]!.data.id)
    await owner.patch(id, edited.version, { story: { en: { html: '<p>Patched' } } })
    await owner.publish(id)
    expect(await htmlOf(id)).toMatchObject({ story: '<p>Patched</p>' })
    expect(version).toBe(1)
  })

  it('is refused with the place and the reason, and nothing is saved', async () => {
    const { id, version } = await owner.create({ type: 'tale', values: { story: { en: { markdown: 'As it was' } } } })
    for (const [sent, reason] of [
      [{ markdown: '<b>x</b>' }, /has HTML in its Markdown, at line 1/],
      [{ html: '<a href="javascript:x">y</a>' }, /has a link to `javascript:x`/],
      [{ html: 7 }, /must have a text in `html`/],
      [{ markdown: '[x](entry:nobody)' }, /has a link to `entry:nobody`/],
    ] as const) {
      const problem = await refusal<WisteriaProblem>(() => owner.patch(id, version, { story: { en: sent } }))
      expect(problem.problems?.[0]).toMatchObject({
        pointer: '/values/story/en',
        message: expect.stringMatching(reason) as string,
      })
    }
    expect((await owner.entry(id)).version).toBe(version)
  })

  it('can stand in the files of the command line', async () => {
    const file = join(folder, 'tale.yaml')
    writeFileSync(file, 'title: By file\nstory:\n  en:\n    markdown: |\n      A *lamp*.\n\n      - one\n      - two\n')
    const result = await run('entry', 'create', 'tale', '--file', file, '--json')
    expect(result.err).toBe('')
    const { id } = JSON.parse(result.out) as { id: string }
    await owner.publish(id)
    expect(await htmlOf(id)).toMatchObject({
      story: '<p>A <em>lamp</em>.</p>\n<ul>\n<li>one</li>\n<li>two</li>\n</ul>',
    })
  })
})
