import type { ScheduledTime, ScheduleView } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor } from '../connection.js'
import { print, printJson, printTable, when } from '../output.js'

/** The options of everything that may be done at a time. */
export const timeOptions = {
  at: ['--at <time>', 'do it later: 2031-03-12T09:00 in the time zone of --zone, or an instant with its offset'],
  zone: ['--zone <name>', 'the time zone of --at, e.g. Europe/Amsterdam; by default that of the site'],
} as const

export interface TimeAsked {
  readonly at?: string
  readonly zone?: string
}

export const scheduledTime = (
  at: string,
  zone: string | undefined,
  locales: readonly string[] | undefined,
): ScheduledTime => ({
  at,
  ...(zone ? { zone } : {}),
  ...(locales ? { locales } : {}),
})

export function printSchedule(schedule: ScheduleView, json: boolean | undefined): void {
  if (json) return printJson(schedule)
  const { does, title, entry, locales, at, zone, id } = schedule
  print(
    `Scheduled: ${does} ${title ? `“${title}”` : entry}${locales ? ` in ${locales.join(', ')}` : ''} at ${when(at, zone)} (${zone}). Schedule ${id}`,
  )
}

export function addSchedule(program: Command): void {
  const schedule = program
    .command('schedule')
    .summary('scheduled publishing and withdrawing')
    .description(
      'Scheduled publishing and withdrawing. `entry publish --at` and `entry withdraw --at` create a schedule.',
    )
  schedule
    .command('list')
    .description('Lists schedules, the soonest first; with --ended, those that are done, failed or cancelled.')
    .argument('[entry]', 'only of the entry with this id')
    .option('--ended', 'schedules that have ended, newest first')
    .option('--json', 'print JSON')
    .action(async (entry: string | undefined, { ended, json }: { ended?: boolean; json?: boolean }) => {
      const { schedules } = await openEditor().schedules({ ...(entry ? { entry } : {}), ...(ended ? { ended } : {}) })
      if (json) return printJson({ schedules })
      if (schedules.length === 0) return print(ended ? 'No schedule has ended.' : 'Nothing is scheduled.')
      printTable(
        ['at', 'action', 'entry', 'locales', 'state', 'schedule', ''],
        schedules.map((item) => [
          `${when(item.at, item.zone)} (${item.zone})`,
          item.does,
          item.title || item.entry,
          item.locales?.join(', ') ?? 'all',
          item.state,
          item.id,
          item.message,
        ]),
      )
    })
  schedule
    .command('change')
    .description('Changes the time of a schedule.')
    .argument('<schedule>', 'its id, as `schedule list` shows it')
    .requiredOption(...timeOptions.at)
    .option(...timeOptions.zone)
    .option('--json', 'print JSON')
    .action(async (id: string, { at, zone, json }: { at: string; zone?: string; json?: boolean }) =>
      printSchedule(await openEditor().reschedule(id, scheduledTime(at, zone, undefined)), json),
    )
  schedule
    .command('cancel')
    .description('Cancels a schedule: nothing is published or withdrawn by it.')
    .argument('<schedule>', 'its id, as `schedule list` shows it')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      await openEditor().cancelSchedule(id)
      if (json) printJson({ cancelled: id })
      else print(`Cancelled: ${id}`)
    })
}
