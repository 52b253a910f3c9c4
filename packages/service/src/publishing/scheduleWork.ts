import { decide, WisteriaError } from '@wisteria/core'
import {
  Act,
  countScheduleTry,
  dueSchedules,
  endSchedule,
  nextScheduleAt,
  openSchedule,
  siteWithId,
  typeOfEntry,
  workingCopyOf,
  type Schedule,
  type Transaction,
} from '@wisteria/store'
import { publish, withdraw } from './publishing.js'
import { tellSchedule } from './schedules.js'
import type { Kernel } from '../kernel/kernel.js'
import { callerOfActor } from '../access/actors.js'
import type { Work } from '../worker/loop.js'

/** The most attempts of a schedule: one that crashes the process must not run again at every start. */
const maxTries = 3

/**
 * Carries out schedules: each in one transaction with its result, so that a crash leaves either both or neither. Schedules due
 * while the service was down run at its start.
 */
export const scheduleWork = (kernel: Kernel): Work<Schedule> => ({
  name: 'schedules',
  atOnce: 1,
  keyOf: ({ id }) => id,
  due: (most, skipped) => dueSchedules(kernel.database, kernel.at, most, skipped),
  next: async (skipped) => {
    const at = await nextScheduleAt(kernel.database, skipped)
    return at === undefined ? undefined : Date.parse(at)
  },
  run: (schedule) => carryOut(kernel, schedule),
  giveUp: ({ id }) =>
    kernel.write((transaction) =>
      giveUp(
        kernel,
        transaction,
        id,
        'It failed several times with an unexpected error; the log of the service has it.',
      ),
    ),
})

/** One schedule: done as a whole, or not at all with the reason recorded. */
async function carryOut(kernel: Kernel, { id, tries }: Schedule): Promise<void> {
  if (tries >= maxTries) {
    const message = `It was started ${maxTries} times and never finished.`
    return kernel.write((transaction) => giveUp(kernel, transaction, id, message))
  }
  // Written before the attempt: one that crashes the process counts too.
  await kernel.database.write((transaction) => countScheduleTry(transaction, id))
  try {
    await kernel.write((transaction) => attempt(kernel, transaction, id))
  } catch (error) {
    if (!(error instanceof WisteriaError)) throw error
    const message = [
      error.message,
      ...(error.problems.length > 1 ? error.problems.map((problem) => problem.message) : []),
    ].join(' ')
    await kernel.write((transaction) => giveUp(kernel, transaction, id, message))
  }
}

async function attempt(kernel: Kernel, transaction: Transaction, id: string): Promise<void> {
  const schedule = await openSchedule(transaction, id)
  if (!schedule || Date.parse(schedule.at) > kernel.now) return
  const site = await siteWithId(transaction, schedule.site)
  const copy = await workingCopyOf(transaction, site, schedule.entry)
  if (!copy) throw new WisteriaError('notFound', 'The entry is no longer there.')
  const caller = await callerOfActor(kernel, schedule.actor, site)
  const may = decide(caller, 'entry.publish')
  if (!may.allowed)
    throw new WisteriaError(
      'forbidden',
      `The member who scheduled it no longer has the right to do it. ${caller.is === 'nobody' ? '' : may.because!}`.trim(),
    )
  const act = new Act(transaction, site, schedule.actor, kernel.environment)
  const locales = schedule.locales ?? undefined
  const author = { caller, actor: schedule.actor }
  if (schedule.does === 'publish') await publish(transaction, act, author, copy, locales)
  else await withdraw(transaction, act, author, copy, locales, false)
  await endSchedule(transaction, id, 'done', act.at)
}

async function giveUp(kernel: Kernel, transaction: Transaction, id: string, message: string): Promise<void> {
  const schedule = await openSchedule(transaction, id)
  if (!schedule) return
  await endSchedule(transaction, id, 'failed', kernel.at, message)
  const site = await siteWithId(transaction, schedule.site)
  // The entry itself may be the reason, and then cannot be read here either: its id and type are recorded all the same.
  const typeId = await typeOfEntry(transaction, schedule.entry)
  const type = site.model.types.find((candidate) => candidate.id === typeId)
  if (!type) return
  const act = new Act(transaction, site, schedule.actor, kernel.environment)
  await tellSchedule(act, { ...schedule, state: 'failed', message }, { id: schedule.entry, type: type.name }, true)
}
