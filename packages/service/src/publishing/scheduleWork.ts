import { decide, WisteriaError } from '@wisteria/core'
import { Act, siteWithId, workingCopyOf, type ScheduleRow, type Transaction } from '@wisteria/store'
import { publish, unpublish } from './publishing.js'
import { tellSchedule } from './schedules.js'
import type { Kernel } from '../kernel/kernel.js'
import { callerOfActor } from '../access/actors.js'
import type { Work } from '../worker/loop.js'

/** How often a schedule is begun at most: one that never comes to its end must not be begun anew with every start. */
const maxTries = 3

/**
 * Carries out schedules: each in one transaction with what becomes of it, so that a crash leaves either both or neither, and
 * what came due while the service was down is done when it is back.
 */
export const scheduleWork = (kernel: Kernel): Work<ScheduleRow> => ({
  name: 'schedules',
  atOnce: 1,
  keyOf: ({ id }) => id,
  due: (most, skipped) =>
    kernel.database.all<ScheduleRow>(
      `select * from schedules where state = 'planned' and at <= ? and id not in (select value from json_each(?))
       order by at, id limit ?`,
      [kernel.at, JSON.stringify(skipped), most],
    ),
  next: async (skipped) => {
    const [next] = await kernel.database.all<{ at: string }>(
      `select at from schedules where state = 'planned' and id not in (select value from json_each(?)) order by at limit 1`,
      [JSON.stringify(skipped)],
    )
    return next && Date.parse(next.at)
  },
  run: (row) => carryOut(kernel, row),
  setAside: ({ id }) =>
    kernel.write((transaction) =>
      giveUp(
        kernel,
        transaction,
        id,
        'It failed several times with an unexpected error; the log of the service has it.',
      ),
    ),
})

/** One schedule. What it would have to leave half done it leaves undone, and says why. */
async function carryOut(kernel: Kernel, { id, tries }: ScheduleRow): Promise<void> {
  if (tries >= maxTries) {
    const message = `It was started ${maxTries} times and never finished.`
    return kernel.write((transaction) => giveUp(kernel, transaction, id, message))
  }
  // Written before it is tried: a try that takes the process with it counts too.
  await kernel.database.write(({ run }) => run('update schedules set tries = tries + 1 where id = ?', [id]))
  try {
    await kernel.write((transaction) => attempt(kernel, transaction, id))
  } catch (error) {
    if (!(error instanceof WisteriaError)) throw error
    const message = [error.message, ...(error.problems.length > 1 ? error.problems.map((one) => one.message) : [])].join(' ') // prettier-ignore
    await kernel.write((transaction) => giveUp(kernel, transaction, id, message))
  }
}

async function attempt(kernel: Kernel, transaction: Transaction, id: string): Promise<void> {
  const row = await plannedRow(transaction, id)
  if (!row || Date.parse(row.at) > kernel.now) return
  const site = await siteWithId(transaction, row.site)
  const copy = await workingCopyOf(transaction, site, row.entry)
  if (!copy) throw new WisteriaError('notFound', 'The entry is no longer there.')
  const caller = await callerOfActor(kernel, row.actor, site)
  const may = decide(caller, 'entry.publish')
  if (!may.allowed)
    throw new WisteriaError(
      'forbidden',
      `Whoever planned it no longer has the right to do it. ${caller.is === 'nobody' ? '' : may.because!}`.trim(),
    )
  const act = new Act(transaction, site, row.actor, kernel.environment)
  const locales = row.locales === null ? undefined : (JSON.parse(row.locales) as string[])
  const author = { caller, actor: row.actor }
  if (row.does === 'publish') await publish(transaction, act, author, copy, locales)
  else await unpublish(transaction, act, author, copy, locales, false)
  await transaction.run("update schedules set state = 'done', ended_at = ? where id = ?", [act.at, id])
}

async function giveUp(kernel: Kernel, transaction: Transaction, id: string, message: string): Promise<void> {
  const row = await plannedRow(transaction, id)
  if (!row) return
  const at = kernel.at
  await transaction.run("update schedules set state = 'failed', message = ?, ended_at = ? where id = ?", [message, at, id]) // prettier-ignore
  const site = await siteWithId(transaction, row.site)
  // What made it fail may be the entry itself, which then cannot be read here either: its id and type are told all the same.
  const [entry] = await transaction.all<{ type: string }>('select type from entries where id = ?', [row.entry])
  const type = site.model.types.find((one) => one.id === entry?.type)
  if (!type) return
  const act = new Act(transaction, site, row.actor, kernel.environment)
  await tellSchedule(act, { ...row, state: 'failed', message }, { id: row.entry, type: type.name }, true)
}

/** A schedule that still waits: it may have been moved or cancelled since it was looked for. */
async function plannedRow(transaction: Transaction, id: string): Promise<ScheduleRow | undefined> {
  const [row] = await transaction.all<ScheduleRow>("select * from schedules where id = ? and state = 'planned'", [id])
  return row
}
