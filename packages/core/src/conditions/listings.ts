import { WisteriaError } from '../base/errors.js'
import type { Listing } from '../fields/listing.js'
import { fieldsAt, kindOf, typeNamed, type ContentType, type Model } from '../model/model.js'
import { didYouMean } from '../text/nearest.js'
import { readCondition } from './check.js'
import { factPath, publicFacts, sortableFacts } from './condition.js'

/**
 * Why a list cannot be filled under a model: a sentence, or undefined where it can.
 * @param here the type of the entry that it stands in.
 */
export function faultOfListing(
  model: Model,
  timeZone: string,
  { type: name, where, sort }: Listing,
  here?: ContentType,
): string | undefined {
  const type = typeNamed(model, name)
  if (!type)
    return `\`${name}\` is not a type.${didYouMean(
      name,
      model.types.map((type) => type.name),
    )}`
  try {
    if (where !== undefined)
      readCondition(where, { model, owners: [type], systemFacts: publicFacts, timeZone, ...(here ? { here } : {}) })
  } catch (error) {
    if (error instanceof WisteriaError) return error.message
    throw error
  }
  for (const part of (sort ?? '').split(',').map((other) => other.trim().replace(/^-/, ''))) {
    if (part === '' || sortableFacts.some((fact) => factPath(fact) === part)) continue
    const [first] = part.split('.')
    const fields = fieldsAt(type, part) ?? fieldsAt(type, first!)
    if (!fields)
      return `\`${part}\` is not a field of ${type.name}.${didYouMean(
        part,
        type.fields.map((field) => field.name),
      )}`
    if (kindOf(fields.at(-1)!).comparison === undefined) return `Entries cannot be sorted by \`${part}\`.`
  }
  return undefined
}
