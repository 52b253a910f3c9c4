import { StreamableHTTPServerTransport } from '@modelcontextprotocol/sdk/server/streamableHttp.js'
import { WisteriaError } from '@wisteria/core'
import { siteNamed } from '@wisteria/store'
import type { Request, Response } from 'express'
import { assistantServer, type Execute } from '../assistants/assistant.js'
import { identify } from '../access/callers.js'
import { addressOf } from '../kernel/addresses.js'
import type { Kernel } from '../kernel/kernel.js'
import { requirePermission } from '../kernel/permission.js'
import type { Route } from '../kernel/route.js'
import { executeRoute } from './executeRoute.js'

/** Where assistants find a site. */
export const assistantPath = '/mcp/v1/:site'

/**
 * Answers one message of the Model Context Protocol. Nothing is kept from one to the next: each says who its caller is, and a tool is
 * a request to one of the routes, as that caller.
 */
export async function answerAssistant(
  kernel: Kernel,
  routes: readonly Route[],
  request: Request,
  response: Response,
): Promise<void> {
  const name = String(request.params['site'])
  const site = await siteNamed(kernel.database, name)
  const identified = await identify(kernel, request.headers, request.method, site)
  if (identified.caller.is === 'nobody')
    throw new WisteriaError('unauthenticated', 'Send an access key of the site as `Authorization: Bearer …`.')
  if (!site) throw new WisteriaError('notFound', `There is no site \`${name.slice(0, 60)}\`.`)
  requirePermission(identified.caller, 'published.read', site)
  const execute: Execute = ({ method, route: path, params = {}, query = {}, headers = {}, body }) => {
    const route = routes.find((one) => one.method === method && one.path === path)!
    const asked = Object.fromEntries(Object.entries(query).filter(([, value]) => value !== undefined))
    const all = { ...params, site: site.name }
    const url = path.replaceAll(/\{(\w+)\}/g, (_, part: string) => encodeURIComponent(all[part as 'site']))
    const incoming = {
      method,
      url,
      params: all,
      query: asked,
      headers: { ...headers, 'content-type': 'application/json' },
      body: () => body,
      file: request,
      address: addressOf(request, kernel.trusted),
    }
    return executeRoute(kernel, route, incoming, site, identified)
  }
  const server = assistantServer(site, execute)
  const transport = new StreamableHTTPServerTransport({ enableJsonResponse: true })
  response.on('close', () => void transport.close())
  await server.connect(transport)
  await transport.handleRequest(request, response, request.body)
}
