import { fork } from 'node:child_process'
import { fileURLToPath } from 'node:url'

/** Another process, as a reader and the service are apart in life: it serves what it is told to. */
export function child(kind, options) {
  return new Promise((resolve, reject) => {
    const process = fork(fileURLToPath(new URL('./server.mjs', import.meta.url)), [kind, JSON.stringify(options)], {
      env: { ...globalThis.process.env, NODE_ENV: 'production' },
      execArgv: ['--conditions=bundled'],
    })
    const ended = new Promise((done) => process.once('exit', done))
    process.once('message', (told) =>
      resolve({
        ...told,
        stop: () => {
          process.kill('SIGTERM')
          return ended
        },
      }),
    )
    process.once('exit', (code) => reject(new Error(`the server ended (${code})`)))
  })
}
