// A server for the benchmarks, in a process of its own: the service, or a floor to measure it against.
import { readFileSync } from 'node:fs'
import { createServer } from 'node:http'
import { Session } from 'node:inspector/promises'
import { join } from 'node:path'
import express from 'express'
import { buildSchema, execute, parse, validate } from 'graphql'
import sqlite3 from 'sqlite3'
import { readOptions, startService } from '@wisteria/service'

const [kind, options] = [process.argv[2], JSON.parse(process.argv[3])]
// When a measurement fails, its servers stop too.
process.on('disconnect', () => process.exit(0))
const profiler = new Session()
profiler.connect()
process.on('message', async (what) => {
  if (what === 'profile') {
    await profiler.post('Profiler.enable')
    await profiler.post('Profiler.start')
    process.send({ isProfiling: true })
  } else {
    const { profile } = await profiler.post('Profiler.stop')
    process.send({ ownShare: ownShareOf(profile) })
  }
})

/** Of the time in which a process did anything, the share of files, which are ours and libraries', and not Node's own. */
function ownShareOf({ nodes, samples, timeDeltas }) {
  const frames = new Map(nodes.map(({ id, callFrame }) => [id, callFrame]))
  const spent = { own: 0, busy: 0 }
  for (const [index, id] of samples.entries()) {
    const { functionName, url } = frames.get(id)
    if (functionName === '(idle)') continue
    spent.busy += timeDeltas[index]
    if (url.startsWith('file:')) spent.own += timeDeltas[index]
  }
  return spent.own / spent.busy
}

const listen = (app) => {
  const server = app.listen(0, '127.0.0.1', () =>
    process.send({ baseUrl: `http://127.0.0.1:${server.address().port}` }),
  )
}

const kinds = {
  /** The service itself. */
  async service() {
    const began = performance.now()
    const service = await startService(readOptions({ readRate: 0, ...options, port: 0, logLevel: 'silent' }, {}))
    const setUpCode = service.setUpAddress && new URL(service.setUpAddress).hash.slice(1)
    process.send({ baseUrl: service.baseUrl, setUpCode, pid: process.pid, readyAfter: performance.now() - began })
    process.on('SIGTERM', () => void service.stop().then(() => process.exit(0)))
  },
  /** Express sending one constant from memory. */
  constant() {
    const app = express()
    const bytes = Buffer.from(options.text)
    app.get('/', (_, response) => void response.type(options.type).send(bytes))
    listen(app)
  },
  /** Node's own server sending the same status, headers and bytes to everybody, looking at nothing. */
  bare() {
    const body = Buffer.from(options.body, 'base64')
    listen(
      createServer((_, response) => {
        response.writeHead(options.status, options.head)
        response.end(body.length > 0 ? body : undefined)
      }),
    )
  },
  /** Express sending rows of a hand-written, indexed, prepared query, with their texts as they are stored. */
  handwritten() {
    const database = new sqlite3.Database(join(options.data, 'wisteria.db'), sqlite3.OPEN_READONLY)
    const statement = database.prepare(options.sql)
    const app = express()
    app.get('/', (request, response, next) => {
      statement.all([request.query.from, request.query.to], (error, rows) => {
        if (error) return next(error)
        response.type('application/json').send(`{"entries":[${rows.map(({ doc }) => doc).join(',')}]}`)
      })
    })
    listen(app)
  },
  /** The reference executor on plain objects that are in memory, its document parsed and found valid once. */
  executor() {
    const schema = buildSchema(readFileSync(options.schema, 'utf8'))
    const document = parse(options.query)
    const errors = validate(schema, document)
    if (errors.length > 0) throw errors[0]
    const rootValue = JSON.parse(readFileSync(options.data, 'utf8'))
    const app = express()
    app.get('/', (_, response, next) => {
      Promise.resolve(execute({ schema, document, rootValue })).then((result) => response.json(result), next)
    })
    listen(app)
  },
}
await kinds[kind]()
