import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'
import type { Job, Proposal } from '@wisteria/client'
import { withNamesOf } from '@wisteria/core'
import type { Command } from 'commander'
import { actorNames } from '../actors.js'
import { openEditor, UsageError } from '../connection.js'
import { readList, readModelFolder } from '../input.js'
import { Outcome } from '../outcome.js'
import { print, printJson, printTable, progress, when } from '../output.js'

const marks = { refused: 'refused', breaking: 'breaking', plain: '' } as const

const namedAtOnce = 3

function printConsequences({ consequences, base }: Proposal): void {
  if (consequences.length === 0) return print(`No change: the files are the model in force (version ${base}).`)
  printTable(
    ['', 'place', 'what happens'],
    consequences.map((consequence) => {
      const more = [consequence.message]
      const { entries, readers } = consequence
      if (entries) {
        for (const entry of entries.first.slice(0, namedAtOnce))
          more.push(`  ${entry.id} ${entry.title}${entry.because ? `: ${entry.because}` : ''}`)
        if (entries.count > namedAtOnce) more.push(`  and ${entries.count - namedAtOnce} more`)
      }
      for (const reader of readers ?? []) more.push(`  read by ${reader.label}, last ${when(reader.lastReadAt)}`)
      return [marks[consequence.weight], consequence.place, more.join('\n')]
    }),
  )
}

/** Where a proposed model comes from, instead of a folder. */
interface ProposedBy {
  readonly at?: string
  readonly fromSite?: string
  readonly types?: string[]
}

/** Compares a folder of files, an earlier version, or the model of another site with the model. */
function propose(folder: string | undefined, { at, fromSite, types }: ProposedBy): Promise<Proposal> {
  if ([folder, at, fromSite].filter((named) => named !== undefined).length !== 1)
    throw new UsageError(
      'Name either a folder of model files, an earlier version with --at, or another site with --from-site.',
    )
  if (types && fromSite === undefined) throw new UsageError('--types goes with --from-site.')
  const editor = openEditor()
  if (fromSite !== undefined) return editor.compareModelFrom(fromSite, types)
  return at === undefined ? editor.compareModel(readModelFolder(folder!)) : editor.compareModelVersion(versionIn(at))
}

function versionIn(at: string): number {
  if (!/^[1-9]\d{0,8}$/.test(at)) throw new UsageError(`--at must be a version of the model, not “${at}”.`)
  return Number(at)
}

const tellProgress = (job: Job): void => progress(job.done, job.total, job.message)

export function addModel(program: Command): void {
  const model = program
    .command('model')
    .summary('read, compare, adopt and pull the model')
    .description('The model: content types and block types, one YAML file each. The folder is the whole model.')
  model
    .command('show')
    .description('Lists the types of the model in force and their fields.')
    .option('--json', 'print the whole model as JSON')
    .action(async ({ json }: { json?: boolean }) => {
      const model = await openEditor().model()
      if (json) return printJson(model)
      if (model.version === 0) return print('There is no model yet. Adopt one: `wisteria model adopt FOLDER`.')
      print(`Model version ${model.version}`)
      for (const [what, types] of [
        ['type', model.types],
        ['block', model.blockTypes],
      ] as const)
        for (const type of types) {
          const cardinality = 'cardinality' in type && type.cardinality === 'one' ? ', exactly one entry' : ''
          print(`\n${what} ${type.name} (${type.label}${cardinality})`)
          const rows = (fields: typeof type.fields, indent = ''): string[][] =>
            fields.flatMap((field) => [
              [
                indent + field.name,
                field.kind,
                [
                  field.required && 'required',
                  field.localized && 'localized',
                  field.many && 'many',
                  field.unique && 'unique',
                  field.showIf !== undefined && `if ${field.showIf}`,
                  field.section !== undefined && `in ${field.section}`,
                  field.aliases && `was ${field.aliases.join(', ')}`,
                ]
                  .filter(Boolean)
                  .join(', '),
              ],
              ...rows(field.fields ?? [], indent + '  '),
            ])
          printTable(['field', 'kind', ''], rows(type.fields))
        }
    })
  model
    .command('pull')
    .description('Writes the files of the model in force into a folder. Comparing that folder then shows no change.')
    .argument('<folder>', 'is made when it is not there')
    .option('--prune', 'remove files of the folder that the model does not have')
    .option('--at <version>', 'the files of an earlier version')
    .option('--json', 'print JSON')
    .action(async (folder: string, { prune, at, json }: { prune?: boolean; at?: string; json?: boolean }) => {
      const editor = openEditor()
      const inForce = await editor.model()
      const { version, files: currentFiles } = at === undefined ? inForce : await editor.modelAt(versionIn(at))
      // Fields renamed or removed since are recognised by the version that the names belong to.
      const files = version === inForce.version ? currentFiles : currentFiles.map((file) => withNamesOf(file, version))
      if (version === 0) throw new UsageError('There is no model yet. Adopt one: `wisteria model adopt FOLDER`.')
      mkdirSync(folder, { recursive: true })
      const written: string[] = []
      const names = new Set(files.map((file) => basename(file.name)))
      for (const file of files) {
        const path = join(folder, basename(file.name))
        if (existsSync(path) && readFileSync(path, 'utf8') === file.text) continue
        writeFileSync(path, file.text)
        written.push(basename(file.name))
      }
      const extra = readdirSync(folder).filter((name) => /\.ya?ml$/.test(name) && !names.has(name))
      if (prune) for (const name of extra) rmSync(join(folder, name))
      if (json) return printJson({ version, written, extra, pruned: prune === true })
      print(`Model version ${version}: ${written.length} of ${files.length} files were written to ${folder}.`)
      if (extra.length > 0)
        print(
          prune
            ? `Removed: ${extra.join(', ')}.`
            : `The model does not have: ${extra.join(', ')}. --prune removes them.`,
        )
    })
  model
    .command('compare')
    .description(
      'Shows every consequence of adopting the files of a folder, or an earlier version. Changes nothing. The exit code says whether anything breaks (8) or is blocked (9).',
    )
    .argument('[folder]', 'holds the YAML files')
    .option('--at <version>', 'an earlier version of the model, instead of a folder')
    .option('--from-site <name>', 'the model of another site, instead of a folder')
    .option('--types <names>', 'with --from-site: only these types and blocks; the rest stays', readList)
    .option('--json', 'print JSON')
    .action(async (folder: string | undefined, { json, ...by }: ProposedBy & { json?: boolean }) => {
      const proposal = await propose(folder, by)
      if (json) printJson(proposal)
      else printConsequences(proposal)
      Outcome.of({
        isBlocked: !proposal.canBeAdopted,
        breaks: proposal.consequences.some(({ weight }) => weight === 'breaking'),
      })
    })
  model
    .command('adopt')
    .description(
      'Compares the files of a folder, or an earlier version, with the model, shows what will happen, and adopts it. Breaking consequences need --breaking.',
    )
    .argument('[folder]', 'holds the YAML files')
    .option(
      '--at <version>',
      'an earlier version of the model, instead of a folder: its fields come back with their values',
    )
    .option('--from-site <name>', 'the model of another site, instead of a folder')
    .option('--types <names>', 'with --from-site: only these types and blocks; the rest stays', readList)
    .option('--breaking', 'adopt it although something breaks')
    .option('--json', 'print JSON')
    .action(
      async (
        folder: string | undefined,
        { breaking, json, ...by }: ProposedBy & { breaking?: boolean; json?: boolean },
      ) => {
        const editor = openEditor()
        const proposal = await propose(folder, by)
        if (!json) printConsequences(proposal)
        if (!proposal.canBeAdopted)
          throw new UsageError('The model cannot be adopted. Correct the blocking problems first.')
        if (proposal.consequences.length === 0)
          return json ? printJson({ version: proposal.base, consequences: [] }) : undefined
        if (!breaking && proposal.consequences.some((consequence) => consequence.weight === 'breaking'))
          throw new UsageError('The model has breaking consequences. Add --breaking to adopt it anyway.')
        const adopted = await editor.adoptModel(proposal.id, tellProgress)
        if (json) printJson({ ...adopted, consequences: proposal.consequences })
        else print(`Adopted: the model is at version ${adopted.version}.`)
      },
    )
  model
    .command('history')
    .description('Lists the versions of the model: who adopted each, and what it changed.')
    .option('--json', 'print JSON')
    .action(async ({ json }: { json?: boolean }) => {
      const editor = openEditor()
      const { models } = await editor.modelHistory()
      if (json) return printJson({ models })
      if (models.length === 0) return print('There is no model yet.')
      const nameOf = await actorNames(editor)
      printTable(
        ['version', 'adopted', 'by', 'what it did'],
        models.map((model) => [
          model.version,
          when(model.adoptedAt),
          nameOf(model.adoptedBy),
          summary(model.consequences),
        ]),
      )
    })
}

const summary = (consequences: readonly { readonly place: string; readonly message: string }[]): string => {
  const lines = consequences.slice(0, 3).map((consequence) => `${consequence.place}: ${consequence.message}`)
  return [...lines, ...(consequences.length > 3 ? [`and ${consequences.length - 3} more`] : [])].join('\n')
}
