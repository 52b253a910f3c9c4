import type { Problem } from '../../base/errors.js'
import type { Conversion, Model } from '../../model/model.js'
import type { ModelSite } from '../checks/check.js'
import type { Located } from '../files.js'
import type { BlockSource, TypeSource } from '../schema.js'

/** A part of an older model that may continue under another name. */
export interface Renamable {
  readonly id: string
  readonly name: string
  readonly aliases?: readonly string[]
}

export type ResolvingSite = ModelSite & { readonly defaultLocale: string }

/** The state of making a model from its source: its inputs, and the results so far. */
export class Resolving {
  readonly before: Model
  readonly site: ResolvingSite
  /** Every earlier version, oldest first, if a file uses names of one of them. */
  readonly past: readonly Model[]
  readonly problems: Problem[] = []
  readonly conversions: Conversion[]
  nextId: number
  /** The parts of the older model that continue already. */
  readonly #claimed = new Set<string>()

  constructor(before: Model, site: ResolvingSite, past: readonly Model[]) {
    this.before = before
    this.site = site
    this.past = past
    this.conversions = [...(before.conversions ?? [])]
    this.nextId = before.nextId
  }

  /** The version that the model will be. */
  get version(): number {
    return this.before.version + 1
  }

  /** A new internal id. */
  mint(prefix: 't' | 'b' | 'f'): string {
    return `${prefix}${this.nextId++}`
  }

  /** The earlier part for a part of this proposal: by its name, else by `was:`. */
  predecessor<T extends Renamable>(
    olds: readonly T[],
    name: string,
    was: readonly string[],
    tell: (message: string) => void,
    then?: { readonly olds: readonly T[]; readonly last: (id: string) => T | undefined },
  ): T | undefined {
    // The part with that name in the model that the file names: in its current form, or in its last one.
    const meant = then?.olds.find((old) => old.name === name)
    if (meant && !this.#claimed.has(meant.id) && !olds.some((old) => was.includes(old.name) && old.id !== meant.id)) {
      this.#claimed.add(meant.id)
      return olds.find((old) => old.id === meant.id) ?? then!.last(meant.id) ?? meant
    }
    const sameName = olds.find((old) => old.name === name)
    const renamed = olds.find((old) => was.includes(old.name))
    if (sameName && renamed && sameName !== renamed)
      tell(`\`${name}\` says that it was \`${renamed.name}\`, and \`${name}\` is there already: it cannot be both.`)
    const match = sameName ?? renamed ?? olds.find((old) => was.some((earlier) => old.aliases?.includes(earlier)))
    if (!match || this.#claimed.has(match.id)) return undefined
    this.#claimed.add(match.id)
    return match
  }

  /** The model whose names a file uses, if it names one. */
  modelThen(located: Located<TypeSource | BlockSource>): Model | undefined {
    const { namesOf } = located.source
    if (namesOf === undefined || this.past.length === 0) return undefined
    const adopted = this.past.find((model) => model.version === namesOf)
    if (!adopted)
      this.problems.push(
        located.problem(
          ['namesOf'],
          'unknownVersion',
          `There is no version ${namesOf} of the model; the newest is ${this.before.version}.`,
        ),
      )
    return adopted
  }
}
