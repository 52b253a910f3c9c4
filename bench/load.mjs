// Sends requests as fast as a server answers. `wrk` uses little of the machine itself, so it is preferred if it is installed;
// otherwise autocannon is used, and the figures then depend more on it than on fast answers.
import { execFile } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import autocannon from 'autocannon'

const run = promisify(execFile)

export const loader = await run('wrk', ['-v']).then(
  () => 'wrk',
  (error) => (error.code === 'ENOENT' ? 'autocannon' : 'wrk'),
)

/**
 * Successful requests a second.
 * @param requests `{ url, method, headers, body }`, sent in turn; all to one server.
 */
export async function rateOf(requests, seconds, connections = 8) {
  const all = [requests].flat()
  if (loader === 'autocannon') {
    const { origin } = new URL(all[0].url)
    const result = await autocannon({
      url: origin,
      connections,
      duration: seconds,
      requests: all.map(({ url, ...rest }) => ({ path: url.slice(origin.length), ...rest })),
    })
    if (result['4xx'] + result['5xx'] + result.errors > 0) throw new Error(`${all[0].url}: answers were not good`)
    return result.requests.average
  }
  const folder = mkdtempSync(join(tmpdir(), 'wisteria-load-'))
  try {
    const { origin } = new URL(all[0].url)
    // In wire format: its compiler cannot take a script with so many.
    const raw = all.map(({ url, method = 'GET', headers = {}, body = '' }) => {
      const fields = Object.entries({
        Host: new URL(origin).host,
        ...headers,
        ...(body ? { 'Content-Length': Buffer.byteLength(body) } : {}),
      })
      const head = fields.map(([name, value]) => `${name}: ${value}\r\n`).join('')
      return `${method} ${url.slice(origin.length)} HTTP/1.1\r\n${head}\r\n${body}`
    })
    const list = join(folder, 'requests')
    writeFileSync(list, raw.join('\0'))
    const script = join(folder, 'requests.lua')
    writeFileSync(
      script,
      `local all = {}
local at = 0
for one in (io.open("${list}", "rb"):read("*a") .. "\\0"):gmatch("(.-)%z") do table.insert(all, one) end
function request()
  at = at % #all + 1
  return all[at]
end
`,
    )
    const { stdout, stderr } = await run('wrk', ['-t1', `-c${connections}`, `-d${seconds}s`, '-s', script, origin], {
      maxBuffer: 1e7,
    })
    if (stderr !== '') throw new Error(stderr)
    if (!/Requests\/sec:/.test(stdout) || /Non-2xx or 3xx responses|Socket errors/.test(stdout))
      throw new Error(`${all[0].url}: ${stdout}`)
    return Number(/Requests\/sec:\s+([\d.]+)/.exec(stdout)[1])
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
