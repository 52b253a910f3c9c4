import {
  localeTags,
  makeId,
  readAutomation,
  sameContent,
  WisteriaError,
  type Automation,
  type Caller,
  type Problem,
} from '@wisteria/core'
import {
  automationsOf,
  changeAutomation,
  countRuns,
  deleteAutomation,
  insertAutomation,
  type Site,
  type StoredAutomation,
  type Reader,
  type Transaction,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { requireMay } from '../kernel/permission.js'
import { nextAtOf } from './timetableWork.js'

/** The most automations of a site. */
const mostAutomations = 200

/** What adopting a set of automations does to one of them. */
export interface AutomationChange {
  readonly name: string
  readonly label: string
  readonly does: 'added' | 'changed' | 'removed' | 'same'
  /** Of `changed`: which parts differ. */
  readonly parts: readonly string[]
  /** Runs that are under way: they go on with what they began with, and end where it is removed. */
  readonly running: number
}

/** The versions of automations by name: what somebody has seen. */
export type Versions = Readonly<Record<string, number>>
export const versionsOf = (automations: readonly StoredAutomation[]): Versions =>
  Object.fromEntries(automations.map(({ definition, version }) => [definition.automation, version]))

/** Nobody gives an automation rights that they do not have. */
function requireRights(caller: Caller, site: Site, { rights = {} }: Automation): void {
  const { publish = false, types, locales } = rights
  const permissions = publish ? (['entry.write', 'entry.publish'] as const) : (['entry.write'] as const)
  for (const permission of permissions)
    for (const type of types ?? site.model.types.map(({ name }) => name))
      requireMay(caller, permission, {
        type,
        region: null,
        locales: locales ?? localeTags(site.settings),
        shared: locales === undefined,
      })
}

/** @throws WisteriaError where one does not fit the model, with every problem of all, or may do more than the caller. */
export function requireFit(caller: Caller, site: Site, automations: readonly Automation[]): void {
  const problems: Problem[] = []
  const names = new Set<string>()
  automations.forEach((automation, index) => {
    const at = `/automations/${index}`
    if (names.has(automation.automation))
      problems.push({
        code: 'nameTaken',
        pointer: `${at}/automation`,
        message: `Two automations are named \`${automation.automation}\`.`,
      })
    names.add(automation.automation)
    try {
      readAutomation(automation, site.model, site.settings)
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      for (const problem of error.problems)
        problems.push({ ...problem, pointer: at + problem.pointer!, file: automation.automation })
    }
  })
  if (problems.length > 0) {
    const [{ file, message }] = problems as [Problem]
    throw new WisteriaError('invalid', file === undefined ? message : `${file}: ${message}`, { problems })
  }
  if (automations.length > mostAutomations)
    throw new WisteriaError(
      'tooCostly',
      `A site has at most ${mostAutomations} automations, and these are ${automations.length}.`,
    )
  for (const automation of automations) requireRights(caller, site, automation)
}

/** What adopting a set does: those that are not in it are removed. */
export async function changesTo(
  reader: Reader,
  site: Site,
  automations: readonly Automation[],
): Promise<AutomationChange[]> {
  const before = await automationsOf(reader, site.id)
  const running = (await countRuns(reader, site.id)).filter(({ state }) => state === 'running')
  const runningOf = (id: string | undefined): number => running.find(({ automation }) => automation === id)?.count ?? 0
  const changes = automations.map((automation): AutomationChange => {
    const stored = before.find(({ definition }) => definition.automation === automation.automation)
    const { automation: name, label } = automation
    const parts = stored ? partsBetween(stored.definition, automation) : []
    const does = !stored ? 'added' : parts.length > 0 ? 'changed' : 'same'
    return { name, label, does, parts, running: runningOf(stored?.id) }
  })
  const removed = before.filter(
    ({ definition: { automation } }) => !automations.some((kept) => kept.automation === automation),
  )
  return [
    ...changes,
    ...removed.map(({ id, definition: { automation: name, label } }): AutomationChange => {
      return { name, label, does: 'removed', parts: [], running: runningOf(id) }
    }),
  ]
}

const partsBetween = (before: Automation, after: Automation): string[] =>
  (['label', 'description', 'rights', 'starts', 'steps'] as const).filter(
    (part) => !sameContent((before[part] ?? {}) as never, (after[part] ?? {}) as never),
  )

/** Stores an automation: a new one, or another definition of the one with its name. */
export async function storeAutomation(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  definition: Automation,
  stored: StoredAutomation | undefined,
): Promise<StoredAutomation> {
  const { at, now } = kernel
  const nextAt = nextAtOf({ definition }, now, site.settings.timeZone)
  if (!stored) {
    const automation: StoredAutomation = {
      id: makeId(kernel.environment),
      site: site.id,
      version: 1,
      definition,
      isEnabled: true,
      secret: null,
      secrets: {},
      nextAt,
      createdAt: at,
      changedAt: at,
      changedBy: actor,
    }
    await insertAutomation(transaction, automation)
    return automation
  }
  if (partsBetween(stored.definition, definition).length === 0) return stored
  const automation = { ...stored, version: stored.version + 1, definition, nextAt, changedAt: at, changedBy: actor }
  await changeAutomation(transaction, automation)
  return automation
}

/** Makes a set the automations of a site. @throws WisteriaError `conflict` where they changed since they were compared. */
export async function adoptAutomations(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  automations: readonly Automation[],
  versions: Versions,
): Promise<void> {
  const before = await automationsOf(transaction, site.id)
  if (!sameContent(versionsOf(before), versions))
    throw new WisteriaError(
      'conflict',
      'The automations of the site have changed since these were compared. Compare again.',
    )
  for (const stored of before)
    if (!automations.some(({ automation }) => automation === stored.definition.automation))
      await deleteAutomation(transaction, stored.id)
  for (const definition of automations)
    await storeAutomation(
      kernel,
      transaction,
      site,
      actor,
      definition,
      before.find((stored) => stored.definition.automation === definition.automation),
    )
}
