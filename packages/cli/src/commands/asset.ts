import { basename } from 'node:path'
import type { AssetChange } from '@wisteria/client'
import { assetChanges } from '@wisteria/core'
import type { Command } from 'commander'
import { openEditor, triesOnly, UsageError } from '../connection.js'
import { printUsedBy } from '../entryOutput.js'
import { readFileAsBlob } from '../input.js'
import { print, printJson, printTable, when } from '../output.js'

export function addAsset(program: Command): void {
  const asset = program.command('asset').summary('list and add files').description('Assets: the files of the site.')
  asset
    .command('list')
    .description('Lists the assets of the site by name.')
    .option('--accepts <types>', 'media types, e.g. image/*')
    .option('--search <words>', 'in the name and the texts')
    .option('--without-alt <locale>', 'pictures that have no alternative text in this locale')
    .option('--json', 'print JSON')
    .action(async ({ json, ...query }: { json?: boolean; accepts?: string; search?: string; withoutAlt?: string }) => {
      const page = await openEditor().assets(query)
      if (json) return printJson(page)
      if (page.assets.length === 0) return print('No assets. Add one: `wisteria asset add FILE`.')
      printTable(
        ['id', 'name', 'kind', 'size', 'alternative text'],
        page.assets.map((asset) => [
          asset.id,
          asset.name,
          asset.mediaType,
          asset.width ? `${asset.width} × ${asset.height}` : `${asset.size} bytes`,
          Object.keys(asset.alt).join(', '),
        ]),
      )
    })
  asset
    .command('add')
    .description('Adds a file. Its media type is read from its content.')
    .argument('<file>')
    .option('--alt <locale=text>', 'alternative text; repeat it for each locale', collect, [])
    .option('--json', 'print JSON')
    .action(async (file: string, { alt, json }: { alt: string[]; json?: boolean }) => {
      const editor = openEditor()
      const texts = readTexts('--alt', alt)
      // Checked before anything is sent, so that no file is added without its texts.
      if (Object.keys(texts).length > 0) {
        const tags = (await editor.settings()).locales.map((locale) => locale.tag)
        const unknown = Object.keys(texts).find((tag) => !tags.includes(tag))
        if (unknown !== undefined)
          throw new UsageError(`--alt: \`${unknown}\` is not a locale of this site (${tags.join(', ')}).`)
      }
      const uploaded = await editor.uploadAsset(basename(file), await readFileAsBlob(file))
      // The asset of a dry run does not exist, so it cannot be changed.
      const hasTexts = Object.keys(texts).length > 0 && !triesOnly()
      const added = hasTexts ? await editor.changeAsset(uploaded.id, { alt: texts }) : uploaded
      if (json) printJson(added)
      else print(`Added: ${added.name} (${added.id}), ${added.mediaType}\n${added.address}`)
    })
  asset
    .command('change')
    .description('Changes the name of a file, its texts by locale, and the most important point of a picture.')
    .argument('<id>')
    .option('--name <name>', 'the file name')
    .option('--alt <locale=text>', 'alternative text; an empty text removes it', collect, [])
    .option('--title <locale=text>', 'what it is called', collect, [])
    .option('--caption <locale=text>', 'caption; repeat it for each locale', collect, [])
    .option(
      '--focal <x,y>',
      'the most important point of a picture, as parts of its width and height from left and top, e.g. 0.5,0.3',
    )
    .option('--json', 'print JSON')
    .action(
      async (
        id: string,
        asked: { name?: string; alt: string[]; title: string[]; caption: string[]; focal?: string; json?: boolean },
      ) => {
        const change: AssetChange = {
          ...(asked.name === undefined ? {} : { name: asked.name }),
          ...textsOf('alt', asked.alt),
          ...textsOf('title', asked.title),
          ...textsOf('caption', asked.caption),
          ...(asked.focal === undefined ? {} : { focalPoint: readFocal(asked.focal) }),
        }
        if (Object.keys(change).length === 0)
          throw new UsageError('Say what to change: --name, --alt, --title, --caption or --focal.')
        const changed = await openEditor().changeAsset(id, change)
        if (asked.json) printJson(changed)
        else print(`Changed: ${changed.name} (${changed.id})`)
      },
    )
  asset
    .command('replace')
    .description('Replaces the file of an asset. Its address stays, and so does every place that uses it.')
    .argument('<id>')
    .argument('<file>')
    .option('--json', 'print JSON')
    .action(async (id: string, file: string, { json }: { json?: boolean }) => {
      const replaced = await openEditor().replaceAsset(id, await readFileAsBlob(file))
      if (json) printJson(replaced)
      else print(`Replaced: ${replaced.name} (${replaced.id}), ${replaced.mediaType}`)
    })
  asset
    .command('revisions')
    .description('Lists the revisions of a file, newest first: who changed its texts or replaced it, and when.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      const { revisions } = await openEditor().assetRevisions(id, { first: 100 })
      if (json) return printJson({ revisions })
      printTable(
        ['revision', 'by', 'at', 'changed', 'name', 'size'],
        revisions.map((state) => [
          String(state.revision),
          state.by,
          when(state.at),
          state.revision === 1 ? 'added' : state.changed.map((name) => assetChanges[name]).join(', '),
          state.name,
          state.width ? `${state.width} × ${state.height}` : `${state.size} bytes`,
        ]),
      )
    })
  asset
    .command('restore')
    .description(
      'Restores the texts and the file of an asset from a revision. The restore is a new revision, so nothing is lost.',
    )
    .argument('<id>')
    .requiredOption('--from <number>', 'a revision by its number, as `asset revisions` lists it', readRevision)
    .option('--only <part>', '`file` or `texts`; both when left out', readPart)
    .option('--json', 'print JSON')
    .action(async (id: string, { from, only, json }: { from: number; only?: 'file' | 'texts'; json?: boolean }) => {
      const restored = await openEditor().restoreAsset(id, from, only)
      if (json) printJson(restored)
      else print(`Restored from revision ${from}: ${restored.name} (${restored.id}), now revision ${restored.revision}`)
    })
  asset
    .command('usage')
    .description('Lists the entries that use a file.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      const { usedBy } = await openEditor().assetUsage(id)
      if (json) return printJson({ usedBy })
      if (usedBy.length === 0) return print('Nothing holds it.')
      printUsedBy(usedBy)
    })
  asset
    .command('delete')
    .description('Deletes a file that no entry uses.')
    .argument('<id>')
    .option(
      '--ignore-revisions',
      'delete it although older revisions use it: restoring one of them gives a broken reference',
    )
    .action(async (id: string, { ignoreRevisions }: { ignoreRevisions?: boolean }) => {
      await openEditor().deleteAsset(id, ignoreRevisions ? { revisions: 'ignore' } : {})
      print('Deleted.')
    })
}

function readRevision(text: string): number {
  if (!/^[1-9]\d{0,8}$/.test(text))
    throw new UsageError(
      `--from is the number of a revision, not “${text}”. \`wisteria asset revisions ID\` lists them.`,
    )
  return Number(text)
}

function readPart(text: string): 'file' | 'texts' {
  if (text !== 'file' && text !== 'texts') throw new UsageError(`--only is file or texts, not “${text}”.`)
  return text
}

const collect = (text: string, all: string[]): string[] => [...all, text]

/** `en=A lamp`, once a locale. */
function readTexts(option: string, all: readonly string[]): Record<string, string> {
  return Object.fromEntries(
    all.map((asset) => {
      const at = asset.indexOf('=')
      if (at < 1) throw new UsageError(`${option} is a locale and a text, such as en="A lamp", not “${asset}”.`)
      return [asset.slice(0, at), asset.slice(at + 1)]
    }),
  )
}

function textsOf(name: 'alt' | 'title' | 'caption', all: readonly string[]): AssetChange {
  if (all.length === 0) return {}
  const texts = Object.entries(readTexts(`--${name}`, all)).map(([locale, text]) => [locale, text === '' ? null : text])
  return { [name]: Object.fromEntries(texts) as Record<string, string | null> }
}

function readFocal(text: string): { x: number; y: number } {
  const [x, y, ...more] = text.split(',').map(Number)
  if (x === undefined || y === undefined || more.length > 0 || !(x >= 0 && x <= 1 && y >= 0 && y <= 1))
    throw new UsageError(`--focal is two numbers from 0 to 1, such as 0.5,0.3, not “${text}”.`)
  return { x, y }
}
