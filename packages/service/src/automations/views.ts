import { typeNamed, type Data } from '@wisteria/core'
import {
  actorOfAutomation,
  type AutomationItem,
  type AutomationRun,
  type Site,
  type StoredAutomation,
} from '@wisteria/store'
import { progressOf } from './advancing.js'

/** How many runs of an automation are running, failed, and done. */
export interface RunCounts {
  readonly running: number
  readonly failed: number
  readonly done: number
  readonly stopped: number
  /** When the newest began; null where there is none. */
  readonly latest: string | null
}

export const noRuns: RunCounts = { running: 0, failed: 0, done: 0, stopped: 0, latest: null }

/** An automation as the Edit API shows it: without the values of its secrets. */
export const automationView = (automation: StoredAutomation, site: Site, baseUrl: string, runs: RunCounts = noRuns) => {
  const { id, definition, version, isEnabled, secret, secrets, nextAt, createdAt, changedAt, changedBy } = automation
  return {
    name: definition.automation,
    actor: actorOfAutomation(id),
    definition,
    version,
    enabled: isEnabled,
    /** Where programs send to. */
    address: definition.starts.by === 'address' ? addressOfAutomation(baseUrl, site.name, definition.automation) : null,
    hasSecret: secret !== null,
    secrets: Object.keys(secrets),
    nextAt: isEnabled ? nextAt : null,
    runs,
    createdAt,
    changedAt,
    changedBy,
  }
}

const addressOfAutomation = (baseUrl: string, site: string, name: string): string =>
  `${baseUrl}/edit/v1/sites/${site}/inbound/${name}`

/** A run, without the values of entries that it began with: those may be many. */
export const runView = (run: AutomationRun, automation: string) => {
  const { id, version, key, cause, actor, state, total, done, failed, createdAt, scope } = run
  const trigger: Data = scope['trigger']
  const entry = (scope['entry'] as { readonly entry?: Data } | undefined)?.entry
  return {
    id,
    automation,
    version,
    key,
    startedBy: actor,
    isCaused: cause.length > 0,
    trigger: trigger ?? null,
    entry: entry ?? null,
    state,
    ...progressOf(run),
    total,
    done,
    failed,
    createdAt,
  }
}

export const itemView = (item: AutomationItem, site: Site) => {
  const { position, input, title, entry, state } = item
  const type = (input as { readonly type?: Data } | null)?.type
  return {
    position,
    input,
    title,
    entry,
    type: typeof type === 'string' && typeNamed(site.model, type) ? type : null,
    state,
    ...progressOf(item),
  }
}
