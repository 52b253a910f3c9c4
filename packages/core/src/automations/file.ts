import { isNode, LineCounter, parseDocument, stringify } from 'yaml'
import { WisteriaError, type Problem } from '../base/errors.js'
import { automationForm, type Automation } from './automation.js'

/** A file of an automation, with its name for people. */
export interface AutomationFile {
  readonly name: string
  readonly text: string
}

const longest = 200_000

/**
 * Reads automations from files: YAML 1.2, one in each.
 * @throws WisteriaError `invalid` with every error at its file, line and column.
 */
export function readAutomationFiles(files: readonly AutomationFile[]): Automation[] {
  const problems: Problem[] = []
  const automations: Automation[] = []
  const fileOf = new Map<string, string>()
  for (const file of files) {
    const automation = readFile(file, problems)
    if (!automation) continue
    const other = fileOf.get(automation.automation)
    if (other !== undefined)
      problems.push({
        code: 'nameTaken',
        file: file.name,
        message: `\`${other}\` has the automation \`${automation.automation}\` already.`,
      })
    fileOf.set(automation.automation, file.name)
    automations.push(automation)
  }
  if (problems.length > 0) {
    const { file, line, message } = problems[0]!
    throw new WisteriaError('invalid', `${file}${line === undefined ? '' : `, line ${line}`}: ${message}`, { problems })
  }
  return automations
}

function readFile({ name: file, text }: AutomationFile, problems: Problem[]): Automation | undefined {
  if (text.length > longest) {
    problems.push({ code: 'tooLarge', file, message: 'A file of an automation has at most 200,000 characters.' })
    return undefined
  }
  const lines = new LineCounter()
  const document = parseDocument(text, { lineCounter: lines, maxAliasCount: 0 } as Parameters<typeof parseDocument>[1])
  const placed = (at: number) => {
    const { line, col } = lines.linePos(at)
    return { file, line, column: col }
  }
  const [error] = document.errors
  if (error) {
    problems.push({ code: 'badYaml', ...placed(error.pos[0]), message: error.message.split('\n')[0]! })
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
  if (read.success) return read.data
  for (const issue of read.error.issues) {
    // The place itself, or the nearest around it that is written.
    let path = issue.path as (string | number)[]
    let node = document.getIn(path, true)
    while (!isNode(node) && path.length > 0) node = document.getIn((path = path.slice(0, -1)), true)
    const start = isNode(node) ? node.range?.[0] : undefined
    const where = issue.path.length === 0 ? '' : `\`${issue.path.join('.')}\`: `
    problems.push({
      code: 'invalid',
      ...(start === undefined ? { file } : placed(start)),
      message: where + issue.message,
    })
  }
  return undefined
}

/** An automation as a file: what is read from it is the same. */
export const writeAutomation = (automation: Automation): string => stringify(automation, { lineWidth: 0 })

/** The name of its file. */
export const automationFileName = ({ automation }: Pick<Automation, 'automation'>): string => `${automation}.yaml`
