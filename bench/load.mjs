// Asks a server as fast as it answers. `wrk` takes little of the machine for itself, so it is preferred where it is installed;
// autocannon does otherwise, and then the figures say more about it than about fast answers.
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

const lua = (text) => `[==[${text}]==]`

/**
 * Requests a second that are answered well.
 * @param requests `{ url, method, headers, body }`, asked in turn; all of one server.
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
    const lines = all.map(({ url, method = 'GET', headers = {}, body }) => {
      const fields = Object.entries({ Host: new URL(origin).host, ...headers }).map(
        ([name, value]) => `[ ${lua(name)} ]=${lua(value)}`,
      )
      const path = url.slice(origin.length)
      return `wrk.format(${lua(method)}, ${lua(path)}, {${fields}}, ${body ? lua(body) : 'nil'})`
    })
    const script = join(folder, 'requests.lua')
    writeFileSync(
      script,
      `local all = {}\nlocal at = 0\nfunction request()\n  if #all == 0 then\n${lines.map((line) => `    table.insert(all, ${line})`).join('\n')}\n  end\n` +
        '  at = at % #all + 1\n  return all[at]\nend\n',
    )
    const { stdout } = await run('wrk', ['-t1', `-c${connections}`, `-d${seconds}s`, '-s', script, origin], {
      maxBuffer: 1e7,
    })
    if (!/Requests\/sec:/.test(stdout) || /Non-2xx or 3xx responses|Socket errors/.test(stdout))
      throw new Error(`${all[0].url}: ${stdout}`)
    return Number(/Requests\/sec:\s+([\d.]+)/.exec(stdout)[1])
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
