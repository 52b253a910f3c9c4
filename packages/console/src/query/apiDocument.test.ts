import { describe, expect, it } from 'vitest'
import { withoutNesting } from './apiDocument'

const ref = (name: string) => ({ $ref: `#/components/schemas/${name}` })

describe('the document that the viewer is given', () => {
  const document = {
    paths: { '/entries/museum': { get: { answer: ref('Museum') } } },
    components: {
      schemas: {
        Museum: { properties: { values: ref('MuseumValues') } },
        MuseumValues: { properties: { people: { items: ref('Person') }, place: ref('Location') } },
        Person: { properties: { values: ref('PersonValues') } },
        PersonValues: { properties: { home: ref('Museum') } },
        MuseumPage: { properties: { entries: { items: ref('Museum') } } },
        Location: { type: 'object' },
        WrittenBlock: { properties: { values: { additionalProperties: ref('WrittenValue') } } },
        WrittenValue: { anyOf: [ref('WrittenBlock')] },
      },
    },
  }
  const shown = withoutNesting(document)
  it('names the types of entries inside values, and writes them out at their own operation', () => {
    const { schemas } = shown.components
    expect(schemas.MuseumValues.properties).toEqual({
      people: { items: { type: 'object', title: 'Person', description: 'The OpenAPI document has the whole form.' } },
      place: ref('Location'),
    })
    expect([schemas.Museum, schemas.MuseumPage, shown.paths]).toEqual([
      document.components.schemas.Museum,
      document.components.schemas.MuseumPage,
      document.paths,
    ])
  })
  it('goes round in no circle', () => {
    const { schemas } = shown.components as { schemas: Record<string, unknown> }
    const walk = (value: unknown, above: readonly string[]): void => {
      if (typeof value !== 'object' || value === null) return
      const { $ref } = value as { $ref?: string }
      if ($ref !== undefined) {
        const name = $ref.slice('#/components/schemas/'.length)
        expect(above).not.toContain(name)
        return walk(schemas[name], [...above, name])
      }
      for (const child of Object.values(value)) walk(child, above)
    }
    for (const [name, schema] of Object.entries(schemas)) if (name !== 'WrittenValue') walk(schema, [name])
  })
  it('is the same where there are no schemas', () =>
    expect(withoutNesting({})).toEqual({ components: { schemas: {} } }))
})
