import type { Model } from '../model/model.js'
import type { ModelCheck } from './checks/check.js'
import { graphqlNames } from './checks/graphqlNames.js'
import { naming } from './checks/naming.js'
import { nesting } from './checks/nesting.js'
import { options } from './checks/options.js'
import { places } from './checks/places.js'
import { rules } from './checks/rules.js'
import { modelError, type ModelSource } from './files.js'
import { refuseDuplicates } from './resolving/duplicates.js'
import { resolveBlockType, resolveType } from './resolving/owners.js'
import { Resolving, type ResolvingSite } from './resolving/resolving.js'

/** Every rule of a whole model. */
const checks: readonly ModelCheck[] = [naming, places, options, rules, nesting, graphqlNames]

/**
 * Makes a model from its source: gives every type, block type and field its internal id, the one it had in `before` if its name (or
 * `was:`) was there, and checks the rules over the whole model.
 * @param past every earlier version, oldest first, if a file uses names of one of them.
 * @throws WisteriaError `badModel` with every error, each at its file, line and column.
 */
export function resolveModel(
  source: ModelSource,
  before: Model,
  site: ResolvingSite,
  past: readonly Model[] = [],
): Model {
  const resolving = new Resolving(before, site, past)
  const { problems, conversions, version } = resolving
  refuseDuplicates(source, problems)
  const blockTypes = source.blocks.map((located) => resolveBlockType(resolving, located))
  const types = source.types.map((located) => resolveType(resolving, located))
  const { nextId } = resolving
  const model: Model = { version, nextId, types, blockTypes, ...(conversions.length > 0 ? { conversions } : {}) }
  for (const check of checks) check({ source, model, site }, (problem) => problems.push(problem))
  if (problems.length > 0) throw modelError(problems)
  return model
}
