import type { PlannedTime } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor } from '../connection.js'
import { print, printJson, printTable, when } from '../output.js'
import type { ScheduleView } from '@wisteria/client'

/** The options of everything that may be done at a time. */
export const timeOptions = {
  at: ['--at <time>', 'at a time: 2031-03-12T09:00, on the clocks of --zone, or an instant with its offset'],
  zone: ['--zone <name>', 'the time zone of --at, e.g. Europe/Amsterdam; the site’s own when left out'],
} as const

export interface TimeAsked {
  readonly at?: string
  readonly zone?: string
}

export const plannedTime = (
  at: string,
  zone: string | undefined,
  locales: readonly string[] | undefined,
): PlannedTime => ({
  at,
  ...(zone ? { zone } : {}),
  ...(locales ? { locales } : {}),
})

const deed = { publish: 'publish', unpublish: 'take down' } as const

export function printPlan(plan: ScheduleView, json: boolean | undefined): void {
  if (json) return printJson(plan)
  print(
    `Planned: ${deed[plan.does]} ${plan.title ? `“${plan.title}”` : plan.entry}${plan.locales ? ` in ${plan.locales.join(', ')}` : ''} at ${when(plan.at)} (${plan.at}, said in ${plan.zone}). Plan ${plan.id}`,
  )
}

export function addPlans(entry: Command): void {
  entry
    .command('plans')
    .description('Lists what is planned, soonest first; with --ended what was done, failed or called off.')
    .argument('[id]', 'only of this entry')
    .option('--ended', 'what was, newest first')
    .option('--json', 'print JSON')
    .action(async (id: string | undefined, { ended, json }: { ended?: boolean; json?: boolean }) => {
      const { schedules } = await openEditor().schedules({ ...(id ? { entry: id } : {}), ...(ended ? { ended } : {}) })
      if (json) return printJson({ schedules })
      if (schedules.length === 0) return print(ended ? 'Nothing was planned.' : 'Nothing is planned.')
      printTable(
        ['at', 'what', 'entry', 'locales', 'state', 'plan', ''],
        schedules.map((schedule) => [
          when(schedule.at),
          deed[schedule.does],
          schedule.title || schedule.entry,
          schedule.locales?.join(', ') ?? 'all',
          schedule.state,
          schedule.id,
          schedule.message,
        ]),
      )
    })
  entry
    .command('call-off')
    .description('Calls off what is planned.')
    .argument('<plan>', 'as `entry plans` lists it')
    .option('--json', 'print JSON')
    .action(async (plan: string, { json }: { json?: boolean }) => {
      await openEditor().callOff(plan)
      if (json) printJson({ calledOff: plan })
      else print(`Called off: ${plan}`)
    })
  entry
    .command('replan')
    .description('Moves what is planned to another time.')
    .argument('<plan>', 'as `entry plans` lists it')
    .requiredOption(...timeOptions.at)
    .option(...timeOptions.zone)
    .option('--json', 'print JSON')
    .action(async (plan: string, { at, zone, json }: { at: string; zone?: string; json?: boolean }) =>
      printPlan(await openEditor().reschedule(plan, plannedTime(at, zone, undefined)), json),
    )
}
