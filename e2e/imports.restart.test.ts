import { Service, type Editor } from '@wisteria/client'
import { expect, it } from 'vitest'
import { start, startSmall } from './support/running.js'

it('an import and its check go on after the service was stopped, and do each row once', async () => {
  const rows = 250
  const small = await startSmall({})
  let { service } = small
  let owner: Editor = small.owner
  /** Stops the service in the middle of a job, and starts it again. */
  const restartDuring = async (job: { readonly id: string }): Promise<void> => {
    await expect.poll(async () => (await owner.job(job.id)).done, { interval: 10, timeout: 60_000 }).toBeGreaterThan(0)
    await service.stop()
    service = await start({}, service.folder)
    owner = new Service({ baseUrl: service.baseUrl, token: small.token }).site('marram')
    await owner.waitFor(await owner.job(job.id))
  }
  try {
    const lines = Array.from({ length: rows }, (_, index) => `Keeper ${index + 1}`)
    const { id } = await owner.imports.read(new Blob([['name', ...lines].join('\n')]), { type: 'person' })
    await owner.imports.setMapping(id, { type: 'person', key: 'name', columns: [{ from: 'name', to: 'name' }] })
    await restartDuring(await owner.imports.check(id))
    expect((await owner.imports.get(id)).outcomes).toEqual({ created: rows })
    await restartDuring(await owner.imports.run(id))
    expect((await owner.imports.get(id)).outcomes).toEqual({ created: rows })
    expect((await owner.entries({ type: 'person', count: true, first: 1 })).count).toBe(rows)
    await restartDuring(await owner.imports.undo(id))
    expect((await owner.imports.get(id)).undone).toEqual({ undone: rows, refused: 0 })
    expect((await owner.entries({ type: 'person', count: true, first: 1 })).count).toBe(0)
  } finally {
    await service.end()
  }
})
