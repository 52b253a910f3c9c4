import {
  instantOf,
  isDate,
  isTimeZone,
  localeTags,
  makeId,
  offsetsOf,
  withOffset,
  WisteriaError,
  type Caller,
  type ScheduleView,
} from '@wisteria/core'
import {
  Act,
  endSchedule,
  insertSchedule,
  moveSchedule,
  scheduleOnSite,
  schedulesOf,
  scheduleWithEntry,
  siteWithId,
  type Reader,
  type Schedule,
  type ScheduleWithEntry,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import { z } from 'zod'
import { onEntry, requireMay } from '../kernel/permission.js'
import { route, type Route } from '../kernel/route.js'
import { entryAt } from '../workingCopies/oneEntry.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { requireInUse, type Author } from '../workingCopies/saving.js'
import type { Kernel } from '../kernel/kernel.js'

const base = '/edit/v1/sites/{site}/schedules'

/** How far ahead a schedule may be. */
const maxYears = 10

export const scheduleView = (site: Site, schedule: ScheduleWithEntry): ScheduleView => ({
  id: schedule.id,
  entry: schedule.entry,
  type: site.model.types.find((type) => type.id === schedule.type)?.name ?? '',
  title: schedule.title ?? '',
  does: schedule.does,
  locales: schedule.locales,
  at: schedule.at,
  zone: schedule.zone,
  state: schedule.state,
  message: schedule.message,
  scheduledBy: schedule.actor,
  endedAt: schedule.endedAt,
})

const time = z
  .string()
  .regex(
    /^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}(:\d{2}(\.\d{1,3})?)?(Z|[+-]\d{2}:\d{2})?$/,
    'must be an instant such as `2031-03-12T09:00:00+01:00`, or without an offset what the clocks in `zone` show',
  )
const planBody = {
  at: time,
  zone: z.string().max(60).optional(),
  locales: z.array(z.string().max(40)).min(1).max(200).optional(),
}

/** When something is to happen, and in which locales. */
interface Plan {
  readonly at: string
  readonly zone?: string | undefined
  readonly locales?: readonly string[] | undefined
}

/** @throws WisteriaError where the time has passed, is too far ahead, or the zone or a locale is none. */
function readSchedule(site: Site, now: number, plan: Plan): Pick<Schedule, 'at' | 'zone' | 'locales'> {
  const zone = plan.zone ?? site.settings.timeZone
  const bad = (pointer: string, message: string) =>
    new WisteriaError('invalid', message, { problems: [{ code: 'badSchedule', pointer, message }] })
  if (!isTimeZone(zone)) throw bad('/zone', `\`${zone}\` is not a time zone. Write it as \`Europe/Amsterdam\`.`)
  const written = plan.at.replace(' ', 'T').replace(/T(\d{2}:\d{2})(?=$|Z|[+-])/, 'T$1:00')
  const notATime = `\`${plan.at}\` is not a time. Write it as \`2031-05-04T09:00\`.`
  // A day that does not exist, or a time that a clock change skips.
  if (Number.isNaN(Date.parse(written.slice(0, 19) + 'Z')) || !isDate(written.slice(0, 10))) throw bad('/at', notATime)
  const isWallTime = !/(Z|[+-]\d{2}:\d{2})$/.test(written)
  const offsets =
    isWallTime && instantOf(`${written.slice(0, 19)}Z`) ? offsetsOf(written.slice(0, 19), zone) : undefined
  if (offsets?.length === 0)
    throw bad('/at', `\`${plan.at}\` does not exist in ${zone}: the clocks go forward then. Choose another time.`)
  if (offsets && offsets.length > 1)
    throw bad(
      '/at',
      `\`${plan.at}\` comes twice in ${zone}. Add ${offsets.map((offset) => `\`${offset}\``).join(' for the first time or ')} for the second.`,
    )
  const instant = instantOf(isWallTime ? withOffset(written.slice(0, 19), zone) : written)
  if (instant === undefined) throw bad('/at', notATime)
  const at = Date.parse(instant)
  if (at <= now) throw bad('/at', `${plan.at} has passed. Choose a later time, or do it now.`)
  if (at > now + maxYears * 366 * 86_400_000) throw bad('/at', `Choose a time within ${maxYears} years.`)
  const tags = localeTags(site.settings)
  const unknown = plan.locales?.find((locale) => !tags.includes(locale))
  if (unknown !== undefined) throw bad('/locales', `\`${unknown}\` is not a locale of this site (${tags.join(', ')}).`)
  return { at: new Date(at).toISOString(), zone, locales: plan.locales ?? null }
}

async function requireScheduled(transaction: Reader, site: Site, id: string): Promise<Schedule> {
  const schedule = await scheduleOnSite(transaction, site.id, id)
  if (!schedule)
    throw new WisteriaError('notFound', `There is no schedule \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
  const ended = { done: 'is done', failed: 'has failed', cancelled: 'is cancelled' }
  if (schedule.state !== 'scheduled')
    throw new WisteriaError('conflict', `This schedule ${ended[schedule.state]} already.`)
  return schedule
}

/** Records the result of a schedule. */
export async function tellSchedule(
  act: Act,
  { id, does, at, state, message, locales }: Schedule,
  entry: { readonly id: string; readonly type: string },
  failed = false,
): Promise<void> {
  await act.tell(failed ? 'entry.scheduleFailed' : 'entry.scheduled', {
    entry,
    ...(locales === null ? {} : { locales: [...locales] }),
    schedule: { id, does, at, state, ...(message === '' ? {} : { message }) },
  })
}

/** A member limited to some locales schedules in those, and cannot change schedules of other locales. */
const requireMaySchedule = (
  caller: Caller,
  site: Site,
  copy: WorkingCopy,
  { locales }: Pick<Schedule, 'locales'>,
): void =>
  requireMay(caller, 'entry.publish', {
    ...onEntry(copy),
    locales: locales ?? localeTags(site.settings),
  })

/** Schedules a publish or a withdrawal of an entry. */
export async function scheduleEntry(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  { caller, actor }: Author,
  copy: WorkingCopy,
  { does, ...plan }: Plan & Pick<Schedule, 'does'>,
): Promise<Schedule> {
  requireInUse(copy)
  const act = new Act(transaction, site, actor, kernel.environment)
  const schedule: Schedule = {
    id: makeId(kernel.environment),
    site: site.id,
    entry: copy.id,
    does,
    ...readSchedule(site, kernel.now, plan),
    state: 'scheduled',
    message: '',
    actor,
    createdAt: act.at,
    endedAt: null,
    tries: 0,
  }
  requireMaySchedule(caller, site, copy, schedule)
  await insertSchedule(transaction, schedule)
  await tellSchedule(act, schedule, { id: copy.id, type: copy.type.name })
  return schedule
}

async function answerSchedule(transaction: Transaction, site: Site, id: string) {
  return scheduleView(site, (await scheduleWithEntry(transaction, site, id))!)
}

export const scheduleRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary:
      'Schedules, the soonest first; with `entry` of one entry only, with `ended=true` those that are done, failed or cancelled, the newest first.',
    permission: 'draft.read',
    query: z.object({ entry: z.string().max(60).optional(), ended: z.enum(['true', 'false']).optional() }),
    handle: async ({ kernel, site, query }) => {
      const entry = query.entry === undefined ? undefined : (await requireEntry(kernel.database, site, query.entry)).id
      const schedules = await schedulesOf(kernel.database, site, { entry, ended: query.ended === 'true' })
      return { body: { schedules: schedules.map((schedule) => scheduleView(site, schedule)) } }
    },
  }),
  route({
    method: 'POST',
    path: '/edit/v1/sites/{site}/entries/{id}/schedule',
    summary:
      'Schedules a publish of the working copy as it is then, or a withdrawal, at an instant. `zone` is the time zone that the editor chose it in.',
    permission: 'entry.publish',
    idempotent: true,
    body: z.strictObject({ does: z.enum(['publish', 'withdraw']), ...planBody }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const { kernel, body } = request
        const { id } = await scheduleEntry(kernel, transaction, site, request, copy, body)
        return { status: 201, body: await answerSchedule(transaction, site, id) }
      }),
  }),
  route({
    method: 'PATCH',
    path: `${base}/{id}`,
    summary: 'Changes the time or the locales of a schedule.',
    permission: 'entry.publish',
    body: z.strictObject(planBody),
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const schedule = await requireScheduled(transaction, site, request.params['id']!)
        const copy = await requireEntry(transaction, site, schedule.entry)
        const next = { ...schedule, ...readSchedule(site, request.kernel.now, request.body), actor: request.actor }
        for (const timing of [schedule, next]) requireMaySchedule(request.caller, site, copy, timing)
        await moveSchedule(transaction, next)
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        await tellSchedule(act, next, { id: copy.id, type: copy.type.name })
        return { body: await answerSchedule(transaction, site, next.id) }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{id}`,
    summary: 'Cancels a schedule.',
    permission: 'entry.publish',
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const schedule = await requireScheduled(transaction, site, request.params['id']!)
        const copy = await requireEntry(transaction, site, schedule.entry)
        requireMaySchedule(request.caller, site, copy, schedule)
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        await endSchedule(transaction, schedule.id, 'cancelled', act.at)
        await tellSchedule(act, { ...schedule, state: 'cancelled' }, { id: copy.id, type: copy.type.name })
        return { status: 204 }
      }),
  }),
]
