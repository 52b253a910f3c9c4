import { createWriteStream } from 'node:fs'
import { rename, rm } from 'node:fs/promises'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { ArchiveHead, Editor } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor, openService, UsageError } from '../connection.js'
import { readFileAsBlob } from '../input.js'
import { print, printJson, printTable, progress, say, when } from '../output.js'

interface ImportOptions {
  readonly as?: string
  readonly newIds?: boolean
  readonly dryRun?: boolean
  readonly json?: boolean
}

/** Parts that people ask about. */
const shown = ['entries', 'revisions', 'publications', 'assets', 'models'] as const

export function addArchives(site: Command): void {
  site
    .command('export')
    .description(
      'Writes the whole site to an archive: a ZIP file with JSON Lines and files, which `site import` reads. It has no secrets, keys and members.',
    )
    .argument('<file>', 'e.g. marram.zip')
    .option(
      '--public',
      'only what readers of the published edition can see, without drafts, histories and names of people',
    )
    .action(async (file: string, { public: isPublic }: { public?: boolean }) => {
      const response = await openEditor().archives.export(isPublic ? 'public' : 'everything')
      const body = Readable.fromWeb(response.body as Parameters<typeof Readable.fromWeb>[0])
      // A file that is cut off would look like an archive.
      const coming = `${file}.part`
      try {
        await pipeline(body, createWriteStream(coming))
        await rename(coming, file)
      } finally {
        await rm(coming, { force: true })
      }
      say(`Wrote ${file}.`)
    })
  site
    .command('import')
    .description(
      'Imports an archive into the connected site, which must be empty. It gets the settings of the archive, and keeps its name, members and keys.',
    )
    .argument('<file>', 'as `site export` writes it')
    .option('--as <name>', 'create a site with this name, and import into it')
    .option('--new-ids', 'give entries and files other ids: for a copy of a site of the same service')
    .option('--dry-run', 'look into the archive and import nothing')
    .option('--json', 'print JSON')
    .action(async (file: string, { as: name, newIds, dryRun, json }: ImportOptions) => {
      const ids = newIds ? 'new' : 'same'
      const blob = await readFileAsBlob(file)
      if (dryRun) {
        if (name !== undefined) throw new UsageError('A site that is not there yet cannot be tried. Leave out --as.')
        const { archive } = await openEditor().archives.check(blob, ids)
        return json ? printJson(archive) : printHead(archive)
      }
      const editor = name === undefined ? openEditor() : await createEmpty(name)
      const { archive, job: begun } = await editor.archives.import(blob, ids)
      if (!json) printHead(archive)
      const job = await editor.waitFor(begun, ({ done, total, message }) => progress(done, total, message))
      if (json) printJson(job)
      else print(job.message)
    })
}

/** A site with settings that the archive replaces. */
async function createEmpty(name: string): Promise<Editor> {
  const service = openService()
  await service.createSite({
    name,
    label: name,
    defaultLocale: 'en',
    locales: [{ tag: 'en', label: 'English', fallback: [] }],
    timeZone: 'UTC',
  })
  say(`Created the site ${name}.`)
  return service.site(name)
}

function printHead({ site, content, madeAt, counts, files }: ArchiveHead): void {
  print(`${site.label} (${site.name}), ${content === 'public' ? 'what is public' : 'everything'}, ${when(madeAt)}`)
  printTable(['', 'number'], [...shown.map((part) => [part, counts[part] ?? 0]), ['files', files]])
}
