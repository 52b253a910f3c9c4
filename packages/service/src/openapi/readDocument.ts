import { entrySchemas } from '@wisteria/core'
import type { Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import type { Route } from '../kernel/route.js'
import { accessKey, document, errorResponses, problemSchema, type Schema } from './parts.js'
import { examplesOf } from './read/examples.js'
import { graphqlPaths } from './read/graphqlPaths.js'
import type { ReadDocument } from './read/operation.js'
import { otherPaths } from './read/otherPaths.js'
import { pagePaths } from './read/pagePaths.js'
import { typePaths } from './read/typePaths.js'

/** OpenAPI 3.1 of a site's Read API: its types by name, with examples that are real entries. */
export async function readDocument(kernel: Kernel, site: Site, routes: readonly Route[]): Promise<Schema> {
  const of: ReadDocument = { site, routes, examples: await examplesOf(kernel, site) }
  const ofTypes = site.model.types.map((type) => typePaths(of, type))
  const paths = merged([...ofTypes.map((part) => part.paths), pagePaths(of), graphqlPaths(of), otherPaths(of)])
  const schemas = merged([entrySchemas(site.model), { Problem: problemSchema }, ...ofTypes.map((part) => part.schemas)])
  return document(
    `${site.settings.label}: reading`,
    `The Read API of ${site.settings.label}. Made from version ${site.model.version} of its model.`,
    `${kernel.baseUrl}/read/v1/${site.name}`,
    {
      ...(site.isOpen ? { security: [{ accessKey: [] }, {}] } : {}),
      tags: tagsOf(site),
      paths,
      components: { securitySchemes: { accessKey }, responses: errorResponses, schemas },
    },
  )
}

/** The groups of operations. */
function tagsOf(site: Site): { name: string; description: string }[] {
  const tags = [
    ...site.model.types.map((type) => ({
      name: type.label,
      description: type.help ?? `Entries of the type \`${type.name}\`.`,
    })),
    { name: 'Pages', description: 'Which entry is at which path.' },
    { name: 'Changes', description: 'Public changes.' },
    { name: 'Previews', description: 'The right to read drafts for a while.' },
    { name: 'GraphQL', description: 'All of it in one question.' },
    { name: 'Descriptions', description: 'Descriptions of the API, for programs.' },
  ]
  return [...new Map(tags.map((tag) => [tag.name, tag])).values()]
}

const merged = (parts: readonly Readonly<Record<string, unknown>>[]): Schema =>
  Object.fromEntries(parts.flatMap((part) => Object.entries(part)))
