import { makeId, nextTime, type Data } from '@wisteria/core'
import {
  automationWithId,
  changeAutomation,
  insertRun,
  nextTimedAt,
  siteWithId,
  timedAutomations,
  type StoredAutomation,
  type Transaction,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import type { Work } from '../worker/loop.js'

/** Starts automations at the times of their timetables. What was missed while the service was down starts once. */
export const timetableWork = (kernel: Kernel): Work<StoredAutomation> => ({
  name: 'timetables',
  atOnce: 1,
  keyOf: ({ id }) => id,
  due: async (most, skipped) => {
    const due = await timedAutomations(kernel.database, kernel.at, most + skipped.length)
    return due.filter(({ id }) => !skipped.includes(id)).slice(0, most)
  },
  next: async () => {
    const at = await nextTimedAt(kernel.database)
    return at === undefined ? undefined : Date.parse(at)
  },
  run: ({ id }) => startOne(kernel, id),
  // The log says why. It is tried again at its next time.
  giveUp: ({ id }) => kernel.write((transaction) => moveOn(kernel, transaction, id)),
})

const startOne = (kernel: Kernel, id: string): Promise<void> =>
  kernel.write(async (transaction) => {
    const automation = await automationWithId(transaction, id)
    if (!automation?.isEnabled || automation.nextAt === null || automation.nextAt > kernel.at) return
    const trigger: Data = { at: automation.nextAt }
    await insertRun(transaction, {
      id: makeId(kernel.environment),
      site: automation.site,
      automation: id,
      version: automation.version,
      key: automation.nextAt,
      scope: { trigger },
      cause: [],
      actor: 'service',
      createdAt: kernel.at,
    })
    await moveOn(kernel, transaction, id)
  })

/** Sets the next time of an automation. */
async function moveOn(kernel: Kernel, transaction: Transaction, id: string): Promise<void> {
  const automation = await automationWithId(transaction, id)
  if (!automation) return
  const { settings } = await siteWithId(transaction, automation.site)
  await changeAutomation(transaction, { ...automation, nextAt: nextAtOf(automation, kernel.now, settings.timeZone) })
}

/** When the timetable of an automation starts it next; null where it has none. */
export const nextAtOf = (
  { definition: { starts } }: Pick<StoredAutomation, 'definition'>,
  now: number,
  timeZone: string,
): string | null => (starts.by === 'timetable' ? nextTime(starts, now, timeZone) : null)
