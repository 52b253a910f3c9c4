// A server for the benchmarks, in a process of its own: the service, or Express sending one constant.
import express from 'express'
import { readOptions, startService } from '@wisteria/service'

const [kind, options] = [process.argv[2], JSON.parse(process.argv[3])]
// Whoever measures may fail: nothing of it goes on alone.
process.on('disconnect', () => process.exit(0))
if (kind === 'service') {
  const service = await startService(readOptions({ readRate: 0, ...options, port: 0, logLevel: 'silent' }, {}))
  const beginCode = service.beginAddress && new URL(service.beginAddress).hash.slice(1)
  process.send({ baseUrl: service.baseUrl, beginCode })
  process.on('SIGTERM', () => void service.stop().then(() => process.exit(0)))
} else {
  const app = express()
  const bytes = Buffer.from(options.text)
  app.get('/', (_, response) => void response.type(options.type).send(bytes))
  const server = app.listen(0, '127.0.0.1', () =>
    process.send({ baseUrl: `http://127.0.0.1:${server.address().port}` }),
  )
}
