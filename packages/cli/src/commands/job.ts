import type { Job } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor } from '../connection.js'
import { print, printJson, printTable, progress, say, when } from '../output.js'

/** The action of a job, and its result. */
const named = ({ does, undoes, state, message }: Job): string =>
  does === null || state === 'running' ? message : `${undoes === null ? '' : 'undo '}${does}: ${message}`

export function addJob(program: Command): void {
  const job = program
    .command('job')
    .summary('long work: follow, stop, undo')
    .description('Jobs: adoptions of a model, bulk actions, imports, and copies from other sites.')
  job
    .command('list')
    .description('Lists jobs, the newest first.')
    .option('--json', 'print JSON')
    .action(async ({ json }: { json?: boolean }) => {
      const { jobs } = await openEditor().jobs()
      if (json) return printJson({ jobs })
      if (jobs.length === 0) return print('There are no jobs.')
      printTable(
        ['started', 'job', 'state', 'done', 'id'],
        jobs.map((job) => [when(job.createdAt), named(job), job.state, `${job.done} of ${job.total}`, job.id]),
      )
    })
  job
    .command('show')
    .description('Shows the progress of a job, and the entries that it refused.')
    .argument('<job>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      const editor = openEditor()
      const job = await editor.job(id)
      const items = job.kind === 'bulk' ? (await editor.bulkItems(id, { refused: true })).items : []
      if (json) return printJson({ ...job, refused: items })
      print(`${job.state}, ${job.done} of ${job.total}: ${named(job)}`)
      for (const { title, entry, message } of items) print(`  refused: “${title || entry}”: ${message}`)
    })
  job
    .command('stop')
    .description(
      'Stops a job. Entries that a bulk action has changed stay changed, and can be undone; an adoption changes nothing.',
    )
    .argument('<job>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      const stopped = await openEditor().stopJob(id)
      if (json) printJson(stopped)
      else print(stopped.message)
    })
  job
    .command('undo')
    .description('Undoes a bulk action, except on entries that somebody has changed since.')
    .argument('<job>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      const editor = openEditor()
      const done = await editor.waitFor(await editor.undoJob(id), ({ done: so, total, message }) =>
        progress(so, total, message),
      )
      const { items } = await editor.bulkItems(done.id, { refused: true })
      if (json) return printJson({ ...done, refused: items })
      for (const { title, entry, message } of items) print(`  not undone: “${title || entry}”: ${message}`)
      say(done.message)
    })
}
