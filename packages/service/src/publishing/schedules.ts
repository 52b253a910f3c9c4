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
import { Act, siteWithId, type Reader, type ScheduleRow, type Site, type Transaction } from '@wisteria/store'
import { z } from 'zod'
import { requireMay } from '../kernel/permission.js'
import { route, type Route } from '../kernel/route.js'
import { entryAt } from '../workingCopies/oneEntry.js'
import { requireEntry } from '../workingCopies/present.js'
import { requireInUse } from '../workingCopies/saving.js'

const base = '/edit/v1/sites/{site}/schedules'

/** A plan may lie this far ahead. */
const maxYears = 10

interface WithEntry extends ScheduleRow {
  readonly title: string | null
  readonly type: string | null
}

const select = (where: string) =>
  `select s.*, d.title, d.type from schedules s left join drafts d on d.shelf = ? and d.entry = s.entry and d.locale = ? where ${where}`

export const scheduleView = (site: Site, row: WithEntry): ScheduleView => ({
  id: row.id,
  entry: row.entry,
  type: site.model.types.find((type) => type.id === row.type)?.name ?? '',
  title: row.title ?? '',
  does: row.does,
  locales: row.locales === null ? null : (JSON.parse(row.locales) as string[]),
  at: row.at,
  zone: row.zone,
  state: row.state,
  message: row.message,
  plannedBy: row.actor,
  endedAt: row.ended_at,
})

async function schedulesOf(
  reader: Reader,
  site: Site,
  where: string,
  bindings: readonly string[],
): Promise<ScheduleView[]> {
  const rows = await reader.all<WithEntry>(select(where), [site.shelf, site.settings.defaultLocale, ...bindings])
  return rows.map((row) => scheduleView(site, row))
}

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

/** @throws WisteriaError where the time has passed, is too far ahead, or the zone or a locale is none. */
function readPlan(
  site: Site,
  now: number,
  plan: { at: string; zone?: string | undefined; locales?: readonly string[] | undefined },
): Pick<ScheduleRow, 'at' | 'zone' | 'locales'> {
  const zone = plan.zone ?? site.settings.timeZone
  const bad = (pointer: string, message: string) =>
    new WisteriaError('invalid', message, { problems: [{ code: 'badSchedule', pointer, message }] })
  if (!isTimeZone(zone)) throw bad('/zone', `\`${zone}\` is not a time zone. Write it as \`Europe/Amsterdam\`.`)
  const written = plan.at.replace(' ', 'T').replace(/T(\d{2}:\d{2})(?=$|Z|[+-])/, 'T$1:00')
  // A day that there is not, or an hour that no clock shows.
  if (Number.isNaN(Date.parse(written.slice(0, 19) + 'Z')) || !isDate(written.slice(0, 10)))
    throw bad('/at', `${plan.at} is no time that there is.`)
  const isWallTime = !/(Z|[+-]\d{2}:\d{2})$/.test(written)
  const offsets =
    isWallTime && instantOf(`${written.slice(0, 19)}Z`) ? offsetsOf(written.slice(0, 19), zone) : undefined
  if (offsets?.length === 0)
    throw bad('/at', `\`${plan.at}\` does not exist in ${zone}: the clocks go forward then. Choose another time.`)
  if (offsets && offsets.length > 1)
    throw bad('/at', `\`${plan.at}\` comes twice in ${zone}. Add ${offsets.map((one) => `\`${one}\``).join(' for the first time or ')} for the second.`) // prettier-ignore
  const instant = instantOf(isWallTime ? withOffset(written.slice(0, 19), zone) : written)
  if (instant === undefined) throw bad('/at', `${plan.at} is no time that there is.`)
  const at = Date.parse(instant)
  if (at <= now) throw bad('/at', `${plan.at} has passed. Choose a time to come, or do it now.`)
  if (at > now + maxYears * 366 * 86_400_000) throw bad('/at', `Choose a time within ${maxYears} years.`)
  const known = localeTags(site.settings)
  const unknown = plan.locales?.find((locale) => !known.includes(locale))
  if (unknown !== undefined) throw bad('/locales', `\`${unknown}\` is not a locale of this site (${known.join(', ')}).`)
  return { at: new Date(at).toISOString(), zone, locales: plan.locales ? JSON.stringify(plan.locales) : null }
}

async function requirePlanned(transaction: Reader, site: Site, id: string): Promise<ScheduleRow> {
  const [row] = await transaction.all<ScheduleRow>('select * from schedules where site = ? and id = ?', [site.id, id])
  if (!row) throw new WisteriaError('notFound', `There is no plan \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
  const ended = { done: 'has been done', failed: 'was tried and failed', calledOff: 'was called off' }
  if (row.state !== 'planned') throw new WisteriaError('conflict', `This plan ${ended[row.state]} already.`)
  return row
}

/** Tells what became of a plan. */
export async function tellSchedule(
  act: Act,
  row: ScheduleRow,
  entry: { readonly id: string; readonly type: string },
  failed = false,
): Promise<void> {
  const { id, does, at, state, message } = row
  await act.tell(failed ? 'entry.scheduleFailed' : 'entry.scheduled', {
    entry,
    ...(row.locales === null ? {} : { locales: JSON.parse(row.locales) as string[] }),
    schedule: { id, does, at, state, ...(message === '' ? {} : { message }) },
  })
}

/** Whoever is limited to some locales schedules in those, and leaves others' schedules of others alone. */
const requireMaySchedule = (
  caller: Caller,
  site: Site,
  type: string,
  { locales }: Pick<ScheduleRow, 'locales'>,
): void =>
  requireMay(caller, 'entry.publish', {
    type,
    locales: locales === null ? localeTags(site.settings) : (JSON.parse(locales) as string[]),
  })

async function answerSchedule(transaction: Transaction, site: Site, id: string) {
  return (await schedulesOf(transaction, site, 's.id = ?', [id]))[0]!
}

export const scheduleRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary:
      'What is planned, soonest first; with `entry` of one entry only, with `ended=true` what has been done, failed or called off, newest first.',
    permission: 'draft.read',
    query: z.object({ entry: z.string().max(60).optional(), ended: z.enum(['true', 'false']).optional() }),
    handle: async ({ kernel, site, query }) => {
      const isEnded = query.ended === 'true'
      const id = query.entry === undefined ? undefined : (await requireEntry(kernel.database, site, query.entry)).id
      const terms = [
        id === undefined ? 's.site = ?' : '+s.site = ?',
        isEnded ? "s.state <> 'planned'" : "s.state = 'planned'",
      ]
      if (id !== undefined) terms.push('s.entry = ?')
      const order = isEnded ? 'order by s.ended_at desc, s.id limit 200' : 'order by s.at, s.id limit 500'
      const bindings = [site.id, ...(id === undefined ? [] : [id])]
      return {
        body: { schedules: await schedulesOf(kernel.database, site, `${terms.join(' and ')} ${order}`, bindings) },
      }
    },
  }),
  route({
    method: 'POST',
    path: '/edit/v1/sites/{site}/entries/{id}/schedule',
    summary:
      'Plans to publish the working copy as it stands then, or to take the entry down, at an instant. `zone` is where that was said.',
    permission: 'entry.publish',
    idempotent: true,
    body: z.strictObject({ does: z.enum(['publish', 'unpublish']), ...planBody }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        requireInUse(copy)
        const { kernel, actor, body } = request
        const act = new Act(transaction, site, actor, kernel.environment)
        const row: ScheduleRow = {
          id: makeId(kernel.environment), site: site.id, entry: copy.id, does: body.does, ...readPlan(site, kernel.now, body),
          state: 'planned', message: '', actor, created_at: act.at, ended_at: null, tries: 0,
        } // prettier-ignore
        requireMaySchedule(request.caller, site, copy.type.name, row)
        await transaction.tables.schedules.create(row)
        transaction.touch('schedules')
        await tellSchedule(act, row, { id: copy.id, type: copy.type.name })
        return { status: 201, body: await answerSchedule(transaction, site, row.id) }
      }),
  }),
  route({
    method: 'PATCH',
    path: `${base}/{id}`,
    summary: 'Moves what is planned to another time, or to other locales.',
    permission: 'entry.publish',
    body: z.strictObject(planBody),
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const row = await requirePlanned(transaction, site, request.params['id']!)
        const copy = await requireEntry(transaction, site, row.entry)
        const next = { ...row, ...readPlan(site, request.kernel.now, request.body), actor: request.actor }
        for (const one of [row, next]) requireMaySchedule(request.caller, site, copy.type.name, one)
        await transaction.run('update schedules set at = ?, zone = ?, locales = ?, actor = ?, tries = 0 where id = ?', [
          next.at, next.zone, next.locales, next.actor, row.id,
        ]) // prettier-ignore
        transaction.touch('schedules')
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        await tellSchedule(act, next, { id: copy.id, type: copy.type.name })
        return { body: await answerSchedule(transaction, site, row.id) }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{id}`,
    summary: 'Calls off what is planned.',
    permission: 'entry.publish',
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const row = await requirePlanned(transaction, site, request.params['id']!)
        const copy = await requireEntry(transaction, site, row.entry)
        requireMaySchedule(request.caller, site, copy.type.name, row)
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        await transaction.run("update schedules set state = 'calledOff', ended_at = ? where id = ?", [act.at, row.id])
        await tellSchedule(act, { ...row, state: 'calledOff' }, { id: copy.id, type: copy.type.name })
        return { status: 204 }
      }),
  }),
]
