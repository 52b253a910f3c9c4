import { Dependences } from '@wisteria/core'
import type { Site } from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { readAnswer } from '../read/answers.js'
import { generationParameter, readBase } from '../read/rest.js'
import { route, type Route } from '../kernel/route.js'
import { editDocument } from './editDocument.js'
import { readDocument } from './readDocument.js'

const texts = new WeakMap<Site['model'], { readonly generation: string; readonly text: string }>()

/** The text of a site's document; made once for each public generation, since its examples are public entries. */
async function readText(kernel: Kernel, site: Site, reads: readonly Route[]): Promise<string> {
  const cached = texts.get(site.model)
  if (cached?.generation === site.publicGeneration) return cached.text
  const text = JSON.stringify(await readDocument(kernel, site, reads))
  texts.set(site.model, { generation: site.publicGeneration, text })
  return text
}

/** The document of a site's Read API. @param reads its routes. */
export const readDocumentRoutes = (reads: readonly Route[]): readonly Route[] => [
  route({
    method: 'GET',
    path: `${readBase}/openapi.json`,
    summary: 'OpenAPI 3.1 of the Read API of this site, from its model, with examples that are real entries.',
    permission: 'published.read',
    query: z.object({ generation: generationParameter }),
    handle: async ({ kernel, site }) => {
      // Its examples are entries.
      const depends = new Dependences()
      depends.site()
      return readAnswer(site, {
        text: await readText(kernel, site, reads),
        type: 'application/vnd.oai.openapi+json;version=3.1',
        edition: 'published',
        depends,
      })
    },
  }),
]

/** The document of the Edit API. @param all every route. */
export const editDocumentRoutes = (all: () => readonly Route[]): readonly Route[] => [
  route({
    method: 'GET',
    path: '/edit/v1/openapi.json',
    summary: 'OpenAPI 3.1 of the Edit API.',
    permission: 'anyone',
    handle: ({ kernel }) => Promise.resolve({ body: editDocument(kernel, all()) }),
  }),
]
