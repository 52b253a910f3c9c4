import type { Command } from 'commander'
import { openEditor } from '../connection.js'
import { print, printJson, printTable, progress, say, when } from '../output.js'

export function addJob(program: Command): void {
  const job = program
    .command('job')
    .summary('watch, stop and put back long work')
    .description('Long work: adoptions, and what is done to many entries.')
  job
    .command('list')
    .description('Lists long work, newest first.')
    .option('--json', 'print JSON')
    .action(async ({ json }: { json?: boolean }) => {
      const { jobs } = await openEditor().jobs()
      if (json) return printJson({ jobs })
      if (jobs.length === 0) return print('There is no long work, and there has been none.')
      printTable(
        ['began', 'what', 'state', 'done', 'job'],
        jobs.map((job) => [when(job.createdAt), job.message, job.state, `${job.done} of ${job.total}`, job.id]),
      )
    })
  job
    .command('show')
    .description('Shows how far a job is, and what it did not do.')
    .argument('<job>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      const editor = openEditor()
      const job = await editor.job(id)
      const items = job.kind === 'bulk' ? (await editor.bulkItems(id, { refused: true })).items : []
      if (json) return printJson({ ...job, refused: items })
      print(`${job.state}, ${job.done} of ${job.total}: ${job.message}`)
      for (const { title, entry, message } of items) print(`  not done: “${title || entry}”: ${message}`)
    })
  job
    .command('stop')
    .description(
      'Stops a job. What is done to entries stays done, and can be put back; an adoption leaves all as it was.',
    )
    .argument('<job>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      const stopped = await openEditor().stopJob(id)
      if (json) printJson(stopped)
      else print(stopped.message)
    })
  job
    .command('put-back')
    .description('Puts every entry that a job changed back to where it was, unless somebody changed it since.')
    .argument('<job>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      const editor = openEditor()
      const done = await editor.waitFor(await editor.putBack(id), ({ done: so, total, message }) =>
        progress(so, total, message),
      )
      const { items } = await editor.bulkItems(done.id, { refused: true })
      if (json) return printJson({ ...done, refused: items })
      for (const { title, entry, message } of items) print(`  not put back: “${title || entry}”: ${message}`)
      say(done.message)
    })
}
