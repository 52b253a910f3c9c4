import { writeFileSync } from 'node:fs'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { print, printJson, say } from '../output.js'

interface Asked {
  readonly out?: string
  readonly samples?: boolean
  readonly schema?: boolean
  readonly trustRequired?: boolean
  readonly seed: string
  readonly each: string
  readonly locale?: string
  readonly type?: string
}

function whole(name: string, text: string, least: number, most: number): number {
  const number = Number(text)
  if (!Number.isInteger(number) || number < least || number > most)
    throw new UsageError(`${name} must be a whole number from ${least} to ${most}, not “${text}”.`)
  return number
}

export function addTypes(program: Command): void {
  program
    .command('types')
    .summary('write TypeScript types, JSON Schema or sample entries from the model')
    .description(
      'Writes TypeScript types of what readers get, for `new Reader<Content>(…)`; or, from the same model, JSON Schema or sample entries for tests without the service.',
    )
    .option('--out <file>', 'write to a file; printed when left out')
    .option(
      '--trust-required',
      'types of required fields are not null; they still can be in drafts, and in entries published before the field was required',
    )
    .option('--schema', 'JSON Schema of every type')
    .option('--samples', 'sample entries as REST gives them: valid, and the same for the same seed')
    .option('--seed <n>', 'another seed makes other samples', '1')
    .option('--each <n>', 'samples of each type', '3')
    .option('--locale <tag>', 'of the samples; the default of the site when left out')
    .option('--type <name>', 'only samples or schema of this type')
    .action(async (asked: Asked) => {
      const { jsonSchemaOf, sampleEntries, typeScriptOf } = await import('@wisteria/core')
      const editor = openEditor()
      const [model, settings] = await Promise.all([editor.model(), editor.settings()])
      if (model.version === 0) throw new UsageError('There is no model yet. Adopt one: `wisteria model adopt FOLDER`.')
      if (asked.samples && asked.schema) throw new UsageError('Ask for --samples or for --schema, one at a time.')
      const types = model.types.filter((type) => asked.type === undefined || type.name === asked.type)
      if (types.length === 0)
        throw new UsageError(
          `\`${asked.type}\` is not a type of this site (${model.types.map((type) => type.name).join(', ')}).`,
        )
      if (!asked.samples && !asked.schema)
        return put(asked, typeScriptOf(model, { trustRequired: asked.trustRequired ?? false }))
      if (asked.schema) {
        const address = (name: string) => `${settings.name}/${name}.json`
        return putJson(
          asked,
          Object.fromEntries(types.map((type) => [type.name, jsonSchemaOf(model, type, address(type.name))])),
        )
      }
      const { locale } = asked
      if (locale !== undefined && !settings.locales.some((other) => other.tag === locale))
        throw new UsageError(
          `\`${locale}\` is not a locale of this site (${settings.locales.map((locale) => locale.tag).join(', ')}).`,
        )
      const { entries, problems } = sampleEntries(model, settings, {
        seed: whole('--seed', asked.seed, 0, 1_000_000_000),
        each: whole('--each', asked.each, 1, 1000),
        ...(locale === undefined ? {} : { locale }),
      })
      for (const problem of problems) say(`Note: ${problem.message}`)
      putJson(asked, Object.fromEntries(types.map((type) => [type.name, entries[type.name]])))
    })
}

function put({ out }: Asked, text: string): void {
  if (out === undefined) return print(text.trimEnd())
  writeFileSync(out, text)
  say(`Written to ${out}.`)
}

function putJson(asked: Asked, value: unknown): void {
  if (asked.out === undefined) return printJson(value)
  put(asked, JSON.stringify(value, null, 2) + '\n')
}
