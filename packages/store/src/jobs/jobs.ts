import type { Reader, Transaction } from '../connection/reader.js'
import type { JobItemRow, JobRow } from '../tables/tables.js'

/** A job: its task, its progress and its end. */
export interface Job {
  readonly id: string
  readonly site: string
  readonly kind: JobRow['kind']
  readonly state: JobRow['state']
  readonly done: number
  readonly total: number
  /** The task, as JSON of its kind. */
  readonly task: string
  /** How far it is, as JSON of its kind. */
  readonly cursor: string
  readonly message: string
  readonly actor: string
  readonly createdAt: string
  readonly finishedAt: string | null
}

/** A job for lists: without the ids of its entries. */
export type JobSummary = Omit<Job, 'task' | 'cursor'> & {
  /** The action of a bulk job. */
  readonly does: string | null
  /** The job that it undoes. */
  readonly undoes: string | null
}

/** One entry of a bulk job, at its position. */
export interface JobItem {
  readonly job: string
  readonly position: number
  readonly entry: string
  readonly title: string
  readonly state: JobItemRow['state']
  /** Why it was refused or skipped. */
  readonly message: string
  /** The data to undo it, as JSON; null where nothing was changed. */
  readonly before: string | null
  /** The version that the job left the entry at. */
  readonly after: number | null
}

const jobFrom = ({ created_at: createdAt, finished_at: finishedAt, ...row }: JobRow): Job => ({
  ...row,
  createdAt,
  finishedAt,
})

export async function jobWithId(reader: Reader, id: string): Promise<Job | undefined> {
  const [row] = await reader.all<JobRow>('select * from jobs where id = ?', [id])
  return row && jobFrom(row)
}

export async function jobOnSite(reader: Reader, site: string, id: string): Promise<Job | undefined> {
  const [row] = await reader.all<JobRow>('select * from jobs where site = ? and id = ?', [site, id])
  return row && jobFrom(row)
}

/** The jobs of a site, newest first. */
export async function jobsOf(reader: Reader, site: string, most: number): Promise<JobSummary[]> {
  const rows = await reader.all<SummaryRow>(
    `select ${summaryColumns} from jobs where site = ? order by created_at desc, id desc limit ?`,
    [site, most],
  )
  return rows.map(summaryFrom)
}

export async function jobSummary(reader: Reader, site: string, id: string): Promise<JobSummary | undefined> {
  const [row] = await reader.all<SummaryRow>(`select ${summaryColumns} from jobs where site = ? and id = ?`, [site, id])
  return row && summaryFrom(row)
}

/** The same of a job that is at hand. */
export function summaryOf({ task, cursor: _, ...job }: Job): JobSummary {
  const { does = null, puttingBack: undoes = null } = JSON.parse(task) as { does?: string; puttingBack?: string }
  return { ...job, does, undoes }
}

/** A task may name 100,000 entries: only the shown part is read. */
const summaryColumns =
  'id, site, kind, state, done, total, message, actor, created_at, finished_at,' +
  " json_extract(task, '$.does') as does, json_extract(task, '$.puttingBack') as undoes"
type SummaryRow = Omit<JobRow, 'task' | 'cursor'> & Pick<JobSummary, 'does' | 'undoes'>

const summaryFrom = ({ created_at: createdAt, finished_at: finishedAt, ...row }: SummaryRow): JobSummary => ({
  ...row,
  createdAt,
  finishedAt,
})

/** The oldest unfinished job of each site: a site's jobs run one after the other. */
export async function firstJobOfEachSite(reader: Reader): Promise<Job[]> {
  const rows = await reader.all<JobRow>(
    `select * from jobs j where state = 'running' and not exists (
       select 1 from jobs o where o.state = 'running' and o.site = j.site and (o.created_at, o.id) < (j.created_at, j.id))
     order by created_at, id`,
  )
  return rows.map(jobFrom)
}

export async function insertJob(transaction: Transaction, job: Job): Promise<void> {
  const { createdAt, finishedAt, ...same } = job
  await transaction.tables.jobs.create({ ...same, created_at: createdAt, finished_at: finishedAt })
}

export async function keepJobProgress(
  transaction: Transaction,
  id: string,
  done: number,
  cursor: string,
): Promise<void> {
  await transaction.run('update jobs set cursor = ?, done = ? where id = ?', [cursor, done, id])
}

/** Says what a job is doing. */
export async function changeJobMessage(transaction: Transaction, id: string, message: string): Promise<void> {
  await transaction.run('update jobs set message = ? where id = ?', [message, id])
}

/** How a job ended. */
export interface JobEnd {
  readonly state: Exclude<JobRow['state'], 'running'>
  readonly at: string
  /** The new message; unchanged when left out. */
  readonly message?: string
  readonly done?: number
}

/** Ends a job that has not ended yet. */
export async function endJob(transaction: Transaction, id: string, end: JobEnd): Promise<void> {
  await transaction.run(
    `update jobs set state = ?, finished_at = ?, message = coalesce(?, message), done = coalesce(?, done)
     where id = ? and state = 'running'`,
    [end.state, end.at, end.message ?? null, end.done ?? null, id],
  )
}

export async function insertJobItem(transaction: Transaction, item: JobItem): Promise<void> {
  await transaction.tables.job_items.create({ ...item })
}

/** The action of a job on an entry; undefined where it did nothing. */
export async function doneJobItem(reader: Reader, job: string, entry: string): Promise<JobItem | undefined> {
  const [row] = await reader.all<JobItemRow>("select * from job_items where job = ? and entry = ? and state = 'done'", [
    job,
    entry,
  ])
  return row
}

/** The entries that a job changed, the last one first. */
export async function entriesDoneBy(reader: Reader, job: string): Promise<string[]> {
  const rows = await reader.all<{ entry: string }>(
    "select entry from job_items where job = ? and state = 'done' order by position desc",
    [job],
  )
  return rows.map(({ entry }) => entry)
}

/** The items of a job after a position. @param onlyFailed leaves out those that succeeded. */
export const jobItemsAfter = (
  reader: Reader,
  job: string,
  position: number,
  most: number,
  onlyFailed: boolean,
): Promise<JobItem[]> =>
  reader.all<JobItemRow>(
    `select * from job_items where job = ? and position > ? ${onlyFailed ? "and state <> 'done'" : ''} order by position limit ?`,
    [job, position, most],
  )

/** How many items of a job are in each state; those in none are left out. */
export async function countJobItems(reader: Reader, job: string): Promise<Partial<Record<JobItem['state'], number>>> {
  const rows = await reader.all<{ state: JobItem['state']; count: number }>(
    'select state, count(*) as count from job_items where job = ? group by state',
    [job],
  )
  return Object.fromEntries(rows.map(({ state, count }) => [state, count]))
}
