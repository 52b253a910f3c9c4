import type { Command } from 'commander'
import { readConnection } from '../connection.js'

export function addMcp(program: Command): void {
  program
    .command('mcp')
    .summary('a site for an assistant')
    .description(
      'Gives an assistant the connected site over the Model Context Protocol, on standard input and output, with the permissions of WISTERIA_TOKEN: an access key. Ends when its input does.',
    )
    .action(async () => {
      const { url, site, token } = readConnection()
      const [{ StdioServerTransport }, { StreamableHTTPClientTransport }] = await Promise.all([
        import('@modelcontextprotocol/sdk/server/stdio.js'),
        import('@modelcontextprotocol/sdk/client/streamableHttp.js'),
      ])
      const here = new StdioServerTransport()
      const there = new StreamableHTTPClientTransport(new URL(`/mcp/v1/${encodeURIComponent(site)}`, url), {
        requestInit: { headers: { Authorization: `Bearer ${token}`, 'User-Agent': 'wisteria' } },
      })
      // Each message is passed on as it is: the service is the server.
      there.onmessage = (message) => void here.send(message)
      here.onmessage = (message) => {
        there.send(message).catch((error: unknown) => {
          process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`)
          if (!('id' in message) || !('method' in message)) return
          const code = -32_603
          const said = error instanceof Error ? error.message : 'The service cannot be reached.'
          void here.send({ jsonrpc: '2.0', id: message.id, error: { code, message: said } })
        })
      }
      const ended = new Promise<void>((resolve) => {
        process.stdin.on('end', resolve)
        process.stdin.on('close', resolve)
      })
      await there.start()
      await here.start()
      await ended
      await there.close()
      await here.close()
    })
}
