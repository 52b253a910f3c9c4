import type { Editor, EntryTranslation, TranslationChange } from '@wisteria/client'
import {
  codedFaultMessage,
  didYouMean,
  printCoded,
  readCoded,
  type GlossaryTerm,
  type SegmentText,
  type UnitView,
} from '@wisteria/core'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { readList, readMap } from '../input.js'
import { print, printJson, printTable, when } from '../output.js'
import { addTranslateFiles } from './translateFiles.js'
import { addTranslateOrders } from './translateOrders.js'
import { viewNamed } from './view.js'

interface Json {
  readonly json?: boolean
}
interface Filter {
  readonly type?: string
  readonly where?: string
  readonly search?: string
}

/** So many texts, and words in their sources. */
const amount = (texts: number, words: number): string =>
  `${texts} ${texts === 1 ? 'text' : 'texts'}, ${words} ${words === 1 ? 'word' : 'words'}`

/** The name of a text that people can type: its place in names, and the block inside a rich text. */
const nameOf = ({ at, unit }: UnitView): string => at.join('/') + unit.slice(unit.indexOf('#')).replace(/#$/, '')

/** A text by its address, or by its name: `title`, `body/k2/text`. */
function unitNamed(units: readonly UnitView[], name: string): UnitView {
  const unit = units.find((candidate) => candidate.unit === name || nameOf(candidate) === name)
  if (unit) return unit
  throw new UsageError(
    `\`${name.slice(0, 120)}\` is no text of this entry.${didYouMean(name, units.map(nameOf))} \`wisteria translate show\` lists them with their names.`,
  )
}

function readText(unit: UnitView, text: string): SegmentText {
  const read = readCoded(text, new Set(Object.keys(unit.codes)))
  if ('fault' in read) throw new UsageError(`${nameOf(unit)}: ${codedFaultMessage(read.fault)}`)
  return read.text
}

const translationOf = async (
  editor: Editor,
  entry: string,
  locale: string,
  isAsset: boolean | undefined,
): Promise<EntryTranslation> =>
  isAsset ? await editor.translations.ofAsset(entry, locale) : (await editor.translations.of(entry, locale)).entries[0]!

const save = (
  editor: Editor,
  entry: string,
  change: TranslationChange,
  isAsset: boolean | undefined,
): Promise<EntryTranslation> =>
  isAsset ? editor.translations.saveAsset(entry, change) : editor.translations.save(entry, change)

function printTranslation(translation: EntryTranslation, personOf: (account: string) => string): void {
  const { title, type, locale, source, progress, task, units } = translation
  const { missing, outdated, done } = progress.units
  print(
    `${title || translation.entry} (${type}), ${source} to ${locale}: ${done} of ${missing + outdated + done} texts done`,
  )
  if (task?.assignee) print(`Assigned to ${personOf(task.assignee)}${task.due ? `, due ${task.due}` : ''}`)
  if (task?.readyAt) print(`Ready for review since ${when(task.readyAt)}`)
  for (const unit of units) {
    print(`\n${nameOf(unit)}  ${unit.state}${unit.since ? ` since ${when(unit.since)}` : ''}`)
    if (unit.sourceThen) print(`  was  ${printCoded(unit.sourceThen)}`)
    print(`  ${source.padEnd(4)} ${printCoded(unit.source)}`)
    if (unit.translation) print(`  ${locale.padEnd(4)} ${printCoded(unit.translation)}`)
  }
}

/** Names of the members that translations are assigned to; an access key may not read them, and shows their ids. */
async function peopleOf(editor: Editor, entries: readonly EntryTranslation[]): Promise<(account: string) => string> {
  if (!entries.some(({ task }) => task?.assignee)) return (account) => account
  const { members } = await editor.members().catch(() => ({ members: [] }))
  return (account) => members.find((member) => member.account === account)?.name ?? account
}

function printSaved(translation: EntryTranslation, json: boolean | undefined): void {
  if (json) return printJson(translation)
  const { missing, outdated, done } = translation.progress.units
  print(
    `Saved: version ${translation.version}, ${done} of ${missing + outdated + done} texts done in ${translation.locale}`,
  )
}

/** Whole entries named on the command line. */
const entryArgument = ['<entry>', 'its id; of a type with one entry, the name of the type'] as const
const assetOption = ['--asset', 'the id is that of a file: its texts'] as const
const localeOption = ['--locale <tag>', 'the locale to translate into'] as const

export function addTranslate(program: Command): void {
  const translate = program
    .command('translate')
    .summary('translations: how far they are, and their texts')
    .description('Translations of entries, text by text: how far they are, what is to do, and who does it.')
  translate
    .command('board')
    .description(
      'Shows how far translations are, by type and locale: what is to do, in texts and words, and since when.',
    )
    .option('--type <name>', 'of one type')
    .option('--where <condition>', 'of entries that match a condition')
    .option('--search <words>', 'of entries that contain these words')
    .option('--view <name>', 'of the entries of a saved view')
    .option('--json', 'print JSON')
    .action(async ({ json, view, ...filter }: Filter & Json & { view?: string }) => {
      const editor = openEditor()
      const { type, where, search } = view === undefined ? filter : (await viewNamed(editor, view)).asks
      const board = await editor.translations.board({ type, where, search })
      if (json) return printJson(board)
      if (board.locales.length === 0) return print('The site has one locale, so nothing is translated.')
      printTable(
        ['type', 'locale', 'to do', 'missing', 'outdated', 'done', 'oldest'],
        board.types.flatMap(({ label, work }) =>
          Object.entries(work).map(([locale, { entriesToDo, entries, units, words, oldest }]) => [
            label,
            locale,
            entriesToDo === 0 ? 'all done' : `${entriesToDo} of ${entries} entries`,
            amount(units.missing, words.missing),
            amount(units.outdated, words.outdated),
            amount(units.done, words.done),
            when(oldest),
          ]),
        ),
      )
    })
  translate
    .command('list')
    .description('Lists entries to translate, the oldest first. Assigned ones come in the order of their due dates.')
    .option(...localeOption)
    .option('--type <name>', 'of one type')
    .option('--where <condition>', 'of entries that match a condition')
    .option('--assignee <account>', 'assigned to this account; `me` for yourself')
    .option('--ready', 'ready for review')
    .option('--first <number>', 'how many, at most 100', Number)
    .option('--after <position>', 'the next page')
    .option('--json', 'print JSON')
    .action(
      async ({
        json,
        ...asked
      }: Filter & Json & { locale?: string; assignee?: string; ready?: boolean; first?: number; after?: string }) => {
        const page = await openEditor().translations.work(asked)
        if (json) return printJson(page)
        if (page.entries.length === 0) return print('Nothing to translate.')
        printTable(
          ['entry', 'type', 'title', 'locale', 'to do', 'since', 'due', ''],
          page.entries.map(({ entry, type, title, locale, progress: { units, words }, since, task }) => [
            entry,
            type,
            title,
            locale,
            amount(units.missing + units.outdated, words.missing + words.outdated),
            when(since),
            task?.due,
            task?.readyAt ? 'ready for review' : '',
          ]),
        )
        if (page.next) print(`\nNext page: --after ${page.next}`)
      },
    )
  translate
    .command('show')
    .description('Shows the texts of an entry beside their translation, each with its name and its state.')
    .argument(...entryArgument)
    .requiredOption(...localeOption)
    .option('--todo', 'only texts that are missing or outdated')
    .option(...assetOption)
    .option('--follow <depth>', 'also of entries that it refers to, so many references deep', Number, 0)
    .option('--json', 'print JSON')
    .action(
      async (
        entry: string,
        {
          locale,
          todo,
          asset,
          follow,
          json,
        }: { locale: string; todo?: boolean; asset?: boolean; follow: number } & Json,
      ) => {
        const editor = openEditor()
        const units = todo ? 'todo' : 'all'
        const view = asset
          ? { entries: [await editor.translations.ofAsset(entry, locale, { units })], more: false }
          : await editor.translations.of(entry, locale, { units, follow })
        if (json) return printJson(view)
        const personOf = await peopleOf(editor, view.entries)
        view.entries.forEach((translation, index) => {
          if (index > 0) print('')
          printTranslation(translation, personOf)
        })
        if (view.more) print('\nIt refers to more entries than are shown.')
      },
    )
  translate
    .command('set')
    .description(
      'Saves translated texts: each as `name=text`, or all from a YAML or JSON file from names to texts. Codes are written as in the source: `<1>…</1>`, `<2/>`. An empty text removes the translation.',
    )
    .argument(...entryArgument)
    .argument('[texts...]', 'e.g. title=Nachtwandeling')
    .requiredOption(...localeOption)
    .option('--file <path>', 'YAML or JSON; - for standard input')
    .option(...assetOption)
    .option('--json', 'print JSON')
    .action(
      async (
        entry: string,
        given: readonly string[],
        { locale, file, asset, json }: { locale: string; file?: string; asset?: boolean } & Json,
      ) => {
        const inFile =
          file === undefined ? [] : Object.entries(readMap(file)).map(([name, text]) => [name, String(text)])
        const pairs = given.map((pair) => {
          const cut = pair.indexOf('=')
          if (cut < 1) throw new UsageError(`\`${pair.slice(0, 80)}\` is not \`name=text\`.`)
          return [pair.slice(0, cut), pair.slice(cut + 1)]
        })
        if (inFile.length + pairs.length === 0) throw new UsageError('Name texts as `name=text`, or a `--file`.')
        const editor = openEditor()
        const now = await translationOf(editor, entry, locale, asset)
        const changed = [...inFile, ...pairs].map(([name, text]) => {
          const unit = unitNamed(now.units, name!)
          return { unit: unit.unit, text: readText(unit, text!), source: unit.digest }
        })
        const change = { locale, base: now.version, revision: now.revision, texts: changed }
        printSaved(await save(editor, entry, change, asset), json)
      },
    )
  translate
    .command('mark')
    .description(
      'Marks texts without changing them: --still-right for the source as it is, --needs-none where readers shall get the source, --needed for the opposite, --empty where readers shall get nothing.',
    )
    .argument(...entryArgument)
    .requiredOption(...localeOption)
    .option('--still-right <names>', 'names of outdated texts; `all` for all of them', readList)
    .option('--needs-none <names>', 'names of missing texts; `all` for all of them', readList)
    .option('--needed <names>', 'names of texts that were marked as needing none', readList)
    .option('--empty <names>', 'names of texts', readList)
    .option(...assetOption)
    .option('--json', 'print JSON')
    .action(
      async (
        entry: string,
        {
          locale,
          asset,
          json,
          ...marks
        }: {
          locale: string
          asset?: boolean
          stillRight?: string[]
          needsNone?: string[]
          needed?: string[]
          empty?: string[]
        } & Json,
      ) => {
        const editor = openEditor()
        const { units, version } = await translationOf(editor, entry, locale, asset)
        const chosen = (names: readonly string[] | undefined, all?: string): string[] | undefined =>
          names?.flatMap((name) =>
            name === 'all' && all !== undefined
              ? units.filter(({ state }) => state === all).map(({ unit }) => unit)
              : [unitNamed(units, name).unit],
          )
        const change = {
          locale,
          base: version,
          stillRight: chosen(marks.stillRight, 'outdated'),
          needsNone: chosen(marks.needsNone, 'missing'),
          needed: chosen(marks.needed),
          empty: chosen(marks.empty),
        }
        if (!Object.values(marks).some((names) => names !== undefined))
          throw new UsageError('Name texts after `--still-right`, `--needs-none`, `--needed` or `--empty`.')
        if (!Object.values(change).some((names) => Array.isArray(names) && names.length > 0))
          return json ? printJson({ marked: 0 }) : print('There is no such text to mark.')
        printSaved(await save(editor, entry, change, asset), json)
      },
    )
  translate
    .command('assign')
    .description('Assigns the translation of entries to a member, until a date.')
    .argument('<entries...>', 'their ids')
    .requiredOption(...localeOption)
    .option('--to <email>', 'the member, by e-mail or the id of the account')
    .option('--nobody', 'take it from whoever it is assigned to')
    .option('--due <date>', 'e.g. 2031-03-12')
    .option('--json', 'print JSON')
    .action(
      async (
        entries: string[],
        { locale, to, nobody, due, json }: { locale: string; to?: string; nobody?: boolean; due?: string } & Json,
      ) => {
        if ((to === undefined) === (nobody !== true)) throw new UsageError('Say either `--to` or `--nobody`.')
        const done = await openEditor().translations.assign(entries, locale, to ?? null, due ?? null)
        if (json) printJson(done)
        else
          print(
            `Assigned to ${to ?? 'nobody'}: ${done.assigned} ${done.assigned === 1 ? 'entry' : 'entries'} in ${locale}`,
          )
      },
    )
  translate
    .command('ready')
    .description('Marks the translation of an entry as ready for review, or as not ready.')
    .argument(...entryArgument)
    .requiredOption(...localeOption)
    .option('--not', 'mark it as not ready')
    .option('--json', 'print JSON')
    .action(async (entry: string, { locale, not, json }: { locale: string; not?: boolean } & Json) => {
      const translation = await openEditor().translations.ready(entry, locale, !not)
      if (json) printJson(translation)
      else print(not ? 'Not ready for review.' : `Ready for review in ${locale}.`)
    })
  translate
    .command('glossary')
    .description(
      'Shows the terms of the site with the translations to use and to avoid; with --file, replaces them by those of a YAML or JSON file: `terms: [{ term, note, translations: { nl: { use, avoid: [] } } }]`.',
    )
    .option('--file <path>', 'YAML or JSON; - for standard input')
    .option('--json', 'print JSON, as --file takes it')
    .action(async ({ file, json }: { file?: string } & Json) => {
      const { translations } = openEditor()
      if (file !== undefined) {
        const { terms } = readMap(file)
        if (!Array.isArray(terms)) throw new UsageError(`${file} must hold a list of \`terms\`.`)
        const set = await translations.setGlossary(terms as GlossaryTerm[])
        return json ? printJson({ terms: set.terms }) : print(`The glossary has ${set.terms.length} terms.`)
      }
      const { terms } = await translations.glossary()
      if (json) return printJson({ terms })
      if (terms.length === 0) return print('The glossary has no terms yet.')
      printTable(
        ['term', 'locale', 'use', 'avoid', 'note'],
        terms.flatMap(({ term, note, translations: by }) =>
          Object.entries(by).map(([locale, { use, avoid }], index) => [
            index === 0 ? term : '',
            locale,
            use,
            avoid?.join(', '),
            index === 0 ? note : '',
          ]),
        ),
      )
    })
  addTranslateFiles(translate)
  addTranslateOrders(translate)
}
