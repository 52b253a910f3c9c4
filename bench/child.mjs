import { fork } from 'node:child_process'
import { fileURLToPath } from 'node:url'

/** Another process, since reader and service are separate in production: it runs a given server. */
export function child(kind, options) {
  return new Promise((resolve, reject) => {
    const process = fork(fileURLToPath(new URL('./server.mjs', import.meta.url)), [kind, JSON.stringify(options)], {
      env: { ...globalThis.process.env, NODE_ENV: 'production' },
      execArgv: ['--conditions=bundled'],
    })
    const ended = new Promise((done) => process.once('exit', done))
    const ask = (what) =>
      new Promise((answer) => {
        process.once('message', answer)
        process.send(what)
      })
    process.once('message', (told) =>
      resolve({
        ...told,
        /** The share of its busy time spent in files, and not in Node itself, during some work. */
        ownShare: async (work) => {
          await ask('profile')
          await work()
          return (await ask('stop')).ownShare
        },
        stop: () => {
          process.kill('SIGTERM')
          return ended
        },
      }),
    )
    process.once('exit', (code) => reject(new Error(`the server ended (${code})`)))
  })
}
