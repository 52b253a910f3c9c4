import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'
import { entryRoot } from '../conditions/condition.js'
import type { Fact } from '../fields/shape.js'
import { kindOf, type Field } from '../model/model.js'
import { fold } from '../text/fold.js'

/*
 * Cache groups (RFC 9875). An answer of the published edition names those that it depends on, an event those that it affects: whenever
 * the bytes of an answer change, the two meet. An answer names the finest groups, and an event all levels:
 *
 *   e.<id>              any byte of an entry
 *   r.<id>              whether an entry can be read; h.<digest> for one whose id is not to be said
 *   t.<type>            which entries of a type can be read
 *   t.<type>.<field>    a field of any of them
 *   v.<type>.<field>.<digest>  which entries have a value in a field
 *   t.<type>.entry      any byte of any of them: no field has this name
 *   u.<by>.<type>…      the same of those that an entry of the type <by> refers to, by a field of its own
 *   a.<id>              a file with its texts; `a` for any file
 *   p.<digest>          what is at a path
 *   s.paths             which paths there are; s.paths.<type> for entries of a type
 *   s                   anything public
 *   all                 named by every answer, and by an event after which everything counts as changed
 *
 * All but `a`, `p.` and `all` also stand for one locale: `e.<id>@nl`.
 */

const at = (locale: string | undefined): string => (locale === undefined ? '' : `@${locale}`)
const digestOf = (text: string): string => bytesToHex(sha256(utf8ToBytes(text))).slice(0, 16)

/** The name of each group. Without a locale it stands for every locale. */
export const groups = {
  entry: (id: string, locale?: string): string => `e.${id}${at(locale)}`,
  presence: (id: string, locale?: string): string => `r.${id}${at(locale)}`,
  hidden: (id: string, locale?: string): string => `h.${digestOf(id)}${at(locale)}`,
  type: (name: string, locale?: string): string => `t.${name}${at(locale)}`,
  field: (type: string, field: string, locale?: string): string => `t.${type}.${field}${at(locale)}`,
  value: (type: string, field: string, value: string, locale?: string): string =>
    `v.${type}.${field}.${digestOf(value)}${at(locale)}`,
  used: (by: string, type: string, locale?: string): string => `u.${by}.${type}${at(locale)}`,
  usedField: (by: string, type: string, field: string, locale?: string): string =>
    `u.${by}.${type}.${field}${at(locale)}`,
  asset: (id: string): string => `a.${id}`,
  assets: 'a',
  path: (path: string): string => `p.${digestOf(path)}`,
  paths: (type?: string, locale?: string): string => `s.paths${type === undefined ? '' : `.${type}`}${at(locale)}`,
  site: (locale?: string): string => `s${at(locale)}`,
  all: 'all',
} as const

/** In the place of a field: any byte of an entry. */
export const anyByte = entryRoot

/** The most groups of an answer, so that they fit into a header. */
export const mostGroups = 64

/** Values of a field, as `toldFact` has them. */
export interface FieldValues {
  readonly field: string
  readonly values: readonly string[]
}

/** Kinds of fields whose values are told from each other. */
const tellingKinds: readonly string[] = ['text', 'slug', 'choice', 'boolean', 'entry', 'number', 'date']

/** Whether values of a field are told from each other, and not only that they changed. */
export const tellsValues = ({ kind }: Pick<Field, 'kind'>): boolean => tellingKinds.includes(kind)

/** A fact as facts are told from each other: texts without regard to capitals and accents, references by id. */
export const toldFact = (fact: Fact): string => fold(String(fact))

/** What the printed values of a field are told by. */
export function toldValues(field: Field, printed: unknown): string[] {
  if (!tellsValues(field)) return []
  return [printed].flat().flatMap((value: unknown) => {
    // Of a row that an earlier version wrote, the form may be another.
    if (value === null || value === undefined || (typeof value === 'object') !== (field.kind === 'entry')) return []
    const fact = field.kind === 'entry' ? (value as { id: string }).id : kindOf(field).fact(value)
    return fact === undefined ? [] : toldFact(fact)
  })
}

/** What an answer depends on. Without a locale it depends on every locale. */
export class Dependences {
  /** Groups by the one that they can be widened to. */
  readonly #byWider = new Map<string, Set<string>>()
  readonly #others = new Set<string>()
  readonly #locales = new Set<string | undefined>()

  /** Any byte of an entry, as one that is printed. */
  entry(id: string, type: string, locale?: string): void {
    this.#of(type, locale).add(groups.entry(id, locale))
  }

  /** Whether an entry can be read, as one that is only named. */
  presence(id: string, type: string, locale?: string): void {
    this.#of(type, locale).add(groups.presence(id, locale))
  }

  /** Whether an entry can be read which cannot be read now. Its id is not said. */
  hidden(id: string, locale?: string): void {
    this.#locales.add(locale)
    this.#others.add(groups.hidden(id, locale))
  }

  /** Which entries of a type can be read, and some fields of all of them. */
  type(name: string, fields: readonly string[] = [], locale?: string): void {
    this.#of(name, locale).add(groups.type(name, locale))
    this.fields(name, fields, locale)
  }

  /** Which entries of a type have one of some values in a field, and some other fields of all of them. */
  having({ field, values }: FieldValues, type: string, fields: readonly string[] = [], locale?: string): void {
    const names = this.#of(type, locale)
    for (const value of values) names.add(groups.value(type, field, value, locale))
    this.fields(type, fields, locale)
  }

  /** Some fields of all entries of a type. */
  fields(type: string, fields: readonly string[], locale?: string): void {
    for (const field of fields) this.#of(type, locale).add(groups.field(type, field, locale))
  }

  /** Which of the entries that those of the type `by` refer to can be read, and some fields of them. */
  used(by: string, type: string, fields: readonly string[] = [], locale?: string): void {
    const names = this.#of(type, locale)
    names.add(groups.used(by, type, locale))
    for (const field of fields) names.add(groups.usedField(by, type, field, locale))
  }

  /** A file with its texts. */
  asset(id: string): void {
    this.#widening(groups.assets).add(groups.asset(id))
  }

  /** What is at a path. */
  path(path: string): void {
    this.#locales.add(undefined)
    this.#others.add(groups.path(path))
  }

  /** Which paths there are, of entries of a type. */
  paths(type?: string, locale?: string): void {
    this.#locales.add(locale)
    this.#others.add(groups.paths(type, locale))
  }

  /** Anything public. */
  site(): void {
    this.#locales.add(undefined)
    this.#others.add(groups.site())
  }

  /** The groups, few enough for a header: those of a type with many become one, and then all become the site. */
  groups(): string[] {
    const all = [...this.#byWider].sort(([, a], [, b]) => b.size - a.size)
    let count = this.#others.size + all.reduce((sum, [, exact]) => sum + exact.size, 0)
    const names = new Set(this.#others)
    for (const [wider, exact] of all) {
      const isWide = count > mostGroups
      if (isWide) count -= exact.size - 1
      for (const name of isWide ? [wider] : exact) names.add(name)
    }
    if (names.size <= mostGroups) return [...names, groups.all]
    const locales = this.#locales.has(undefined) ? [undefined] : [...this.#locales]
    return [...locales.map((locale) => groups.site(locale)), groups.all]
  }

  #of(type: string, locale: string | undefined): Set<string> {
    this.#locales.add(locale)
    return this.#widening(groups.field(type, anyByte, locale))
  }

  #widening(wider: string): Set<string> {
    const names = this.#byWider.get(wider) ?? new Set()
    this.#byWider.set(wider, names)
    return names
  }
}

/** What changed of an entry for the readers of a locale. */
export interface LocaleChange {
  readonly locale: string
  /** Whether it can be read now and could not before, or the other way round; or its words are of another locale than before. */
  readonly came: boolean
  /** Names of its top-level fields whose values differ. */
  readonly fields: readonly string[]
  /** What these fields had and have; of one that came or went, every field. */
  readonly values: readonly FieldValues[]
  readonly path: { readonly from: string | null; readonly to: string | null }
}

/** What changed of an entry for readers. */
export interface EntryPublicChange {
  readonly id: string
  /** The name of its type. */
  readonly type: string
  /** Left out where everything of it may differ. */
  readonly locales?: readonly LocaleChange[]
  /** Names of the types of entries that refer to it by fields of their own. */
  readonly referredBy?: readonly string[]
}

/**
 * The groups that changes affect, of every level.
 * @param assets ids of files that are shown and have changed.
 * @param locales all of the site.
 */
export function groupsOfChange(
  entries: readonly EntryPublicChange[],
  locales: readonly string[],
  assets: readonly string[] = [],
): string[] {
  const names = new Set<string>()
  if (assets.length > 0)
    for (const name of [groups.assets, ...assets.map(groups.asset), groups.site(), ...locales.map(groups.site)])
      names.add(name)
  for (const { id, type, locales: changes, referredBy = [] } of entries) {
    const changed = changes?.map(({ locale }) => locale) ?? locales
    if (changed.length === 0) continue
    for (const locale of [undefined, ...changed]) {
      names.add(groups.entry(id, locale))
      names.add(groups.field(type, anyByte, locale))
      for (const by of referredBy) names.add(groups.usedField(by, type, anyByte, locale))
      names.add(groups.site(locale))
    }
    for (const { locale, came, fields, values, path } of changes ?? [])
      for (const place of [undefined, locale]) {
        // What depends on a field also depends on which entries there are.
        if (came) {
          for (const name of [groups.presence(id, place), groups.hidden(id, place), groups.type(type, place)])
            names.add(name)
          for (const by of referredBy) names.add(groups.used(by, type, place))
        } else
          for (const field of fields) {
            names.add(groups.field(type, field, place))
            for (const by of referredBy) names.add(groups.usedField(by, type, field, place))
          }
        for (const { field, values: all } of values)
          for (const value of all) names.add(groups.value(type, field, value, place))
        if (path.from === path.to) continue
        names.add(groups.paths(undefined, place)).add(groups.paths(type, place))
        for (const moved of [path.from, path.to]) if (moved !== null) names.add(groups.path(moved))
      }
  }
  return [...names].sort()
}
