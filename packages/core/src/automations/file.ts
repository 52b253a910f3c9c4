import { isNode, LineCounter, parseDocument, stringify } from 'yaml'
import { WisteriaError, type Problem } from '../base/errors.js'
import type { SiteSettings } from '../locales/settings.js'
import type { Model } from '../model/model.js'
import { automationForm, type Automation } from './automation.js'
import { readAutomation } from './check.js'

/** A file of an automation, with its name for people. */
export interface AutomationFile {
  readonly name: string
  readonly text: string
}

const longest = 200_000

type Path = readonly (string | number)[]

/** An automation that was read, with the position of every place in its text. */
interface ReadFile {
  readonly automation: Automation
  /** The position of a place, or of the nearest around it that is written. */
  readonly placeOf: (path: Path) => { readonly line?: number; readonly column?: number }
}

/**
 * Reads automations from files: YAML 1.2, one in each.
 * @throws WisteriaError `invalid` with every error at its file, line and column.
 */
export function readAutomationFiles(files: readonly AutomationFile[]): Automation[] {
  const problems: Problem[] = []
  const automations: Automation[] = []
  const fileOf = new Map<string, string>()
  for (const file of files) {
    const read = readFile(file, problems)
    if (!read) continue
    const { automation } = read.automation
    const other = fileOf.get(automation)
    if (other !== undefined)
      problems.push({
        code: 'nameTaken',
        file: file.name,
        message: `\`${other}\` has the automation \`${automation}\` already.`,
      })
    fileOf.set(automation, file.name)
    automations.push(read.automation)
  }
  if (problems.length > 0) {
    const { file, line, message } = problems[0]!
    throw new WisteriaError('invalid', `${file}${line === undefined ? '' : `, line ${line}`}: ${message}`, { problems })
  }
  return automations
}

/** What is wrong with a text of an automation, as YAML and against the model, each with its line and column. */
export function problemsInAutomation(text: string, model: Model, settings: SiteSettings): Problem[] {
  const problems: Problem[] = []
  const read = readFile({ name: '', text }, problems)
  if (!read) return problems
  try {
    readAutomation(read.automation, model, settings)
    return []
  } catch (error) {
    if (!(error instanceof WisteriaError)) throw error
    return error.problems.map((problem) => ({
      ...problem,
      ...read.placeOf(pathIn(problem.pointer ?? '')),
    }))
  }
}

/** A JSON Pointer as a path. */
const pathIn = (pointer: string): Path =>
  pointer
    .split('/')
    .slice(1)
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'))
    .map((part) => (/^\d+$/.test(part) ? Number(part) : part))

function readFile({ name: file, text }: AutomationFile, problems: Problem[]): ReadFile | undefined {
  if (text.length > longest) {
    problems.push({ code: 'tooLarge', file, message: 'A file of an automation has at most 200,000 characters.' })
    return undefined
  }
  const lines = new LineCounter()
  const document = parseDocument(text, { lineCounter: lines, prettyErrors: false, uniqueKeys: true })
  const placeAt = (at: number) => {
    const { line, col } = lines.linePos(at)
    return { line, column: col }
  }
  const placeOf = (path: Path) => {
    let within = path
    let node = document.getIn(within, true)
    while (!isNode(node) && within.length > 0) node = document.getIn((within = within.slice(0, -1)), true)
    const start = isNode(node) ? node.range?.[0] : undefined
    return start === undefined ? {} : placeAt(start)
  }
  const [error] = document.errors
  if (error) {
    problems.push({ code: 'badYaml', file, ...placeAt(error.pos[0]), message: error.message.split('\n')[0]! })
    return undefined
  }
  let content: unknown
  try {
    content = document.toJS({ maxAliasCount: 0 })
  } catch {
    problems.push({ code: 'badYaml', file, message: 'Aliases are not used in automations: write the value again.' })
    return undefined
  }
  const read = automationForm.safeParse(content)
  if (read.success) return { automation: read.data, placeOf }
  for (const issue of read.error.issues) {
    const where = issue.path.length === 0 ? '' : `\`${issue.path.join('.')}\`: `
    problems.push({ code: 'invalid', file, ...placeOf(issue.path as Path), message: where + issue.message })
  }
  return undefined
}

/** An automation as a file: what is read from it is the same. */
export const writeAutomation = (automation: Automation): string => stringify(automation, { lineWidth: 0 })

/** The name of its file. */
export const automationFileName = ({ automation }: Pick<Automation, 'automation'>): string => `${automation}.yaml`
