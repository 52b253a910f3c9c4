import { t } from '../messages'

/** An OpenAPI document, as far as it is looked into here. */
export interface ApiDocument {
  readonly components?: { readonly schemas?: Readonly<Record<string, unknown>> }
}

const place = '#/components/schemas/'

/**
 * The document as the viewer is given it. Entries refer to entries without end, and the viewer writes every reference out, for many
 * seconds: inside values it gets the name of a type instead of all that the type holds, which it shows at its own operation.
 */
export function withoutNesting<Given extends ApiDocument>(document: Given): Given {
  const schemas = document.components?.schemas ?? {}
  const nests = (name: string): boolean => `${name}Values` in schemas || ['WrittenValue', 'RichText'].includes(name)
  const described = (name: string): string =>
    (schemas[name] as { description?: string } | undefined)?.description ?? t('query.writtenOut')
  const shortened = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(shortened)
    if (typeof value !== 'object' || value === null) return value
    const { $ref } = value as { $ref?: unknown }
    const name = typeof $ref === 'string' && $ref.startsWith(place) ? $ref.slice(place.length) : undefined
    if (name !== undefined && nests(name)) return { type: 'object', title: name, description: described(name) }
    return Object.fromEntries(Object.entries(value).map(([key, member]) => [key, shortened(member)]))
  }
  const isInside = (name: string): boolean => /(Values|Block)$|^Written/.test(name)
  return {
    ...document,
    components: {
      ...document.components,
      schemas: Object.fromEntries(
        Object.entries(schemas).map(([name, schema]) => [name, isInside(name) ? shortened(schema) : schema]),
      ),
    },
  }
}
