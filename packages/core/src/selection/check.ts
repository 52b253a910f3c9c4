import {
  fieldNamed,
  isListForReaders,
  ownersInside,
  shapeOf,
  typeNamed,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { assetMembers } from '../fields/asset.js'
import type { ChoiceForm } from '../fields/choice.js'
import type { RichTextForm } from '../richtext/print.js'
import { didYouMean } from '../text/nearest.js'
import { selectionOptions, type OptionForm, type Rendition } from './options.js'
import { parseSelection, selectionError, type SelectionItem, type WrittenField, type WrittenOption } from './parse.js'
import type { ChosenField, Selection } from './selection.js'

/**
 * Reads a selection and checks it against the model.
 * @param owners the types that it selects from: one, or several where entries may differ.
 * @throws WisteriaError `badSelection` with position and suggestion.
 */
export const readSelection = (text: string, model: Model, owners: readonly FieldOwner[]): Selection =>
  new Checker(model, text).select(parseSelection(text), owners)

class Checker {
  readonly #model: Model
  readonly #text: string
  readonly #known = new Map<string, readonly ChosenField[]>()
  /** Every field of an owner. Made when it is read: blocks may contain themselves. */
  readonly #whole: Selection = {
    of: (owner) => {
      const fields = this.#known.get(owner.id) ?? this.#fieldsOf(owner, [{ is: 'all', at: 0 }], [owner], [])
      this.#known.set(owner.id, fields)
      return fields
    },
  }

  constructor(model: Model, text: string) {
    this.#model = model
    this.#text = text
  }

  #fail(at: number, message: string): never {
    throw selectionError(this.#text, at, message)
  }

  select(items: readonly SelectionItem[], owners: readonly FieldOwner[]): Selection {
    const flat = items.map((item) => (item.is === 'field' ? nested(item) : item))
    for (const item of flat) {
      if (item.is === 'of') this.#requireOwner(item.name, item.at, owners)
      if (item.is === 'field') this.#requireField(item, owners)
    }
    const chosen = new Map(
      owners.map((owner) => {
        // Items for this owner only are added to those for all.
        const items = flat.flatMap((item): readonly SelectionItem[] =>
          item.is !== 'of' ? [item] : answersTo(owner, item.name) ? item.inside.map(unnested) : [],
        )
        for (const item of items) if (item.is === 'field' && !flat.includes(item)) this.#requireField(item, [owner])
        return [owner.id, this.#fieldsOf(owner, items, owners, flat)]
      }),
    )
    return { of: (owner) => chosen.get(owner.id) }
  }

  #requireOwner(name: string, at: number, owners: readonly FieldOwner[]): void {
    if (owners.some((owner) => answersTo(owner, name))) return
    const names = owners.map((owner) => owner.name)
    this.#fail(at, `\`${name.slice(0, 80)}\` cannot be here: ${names.join(', ')} can.${didYouMean(name, names)}`)
  }

  #requireField(item: WrittenField, owners: readonly FieldOwner[]): void {
    const [name] = item.names
    if (owners.some((owner) => fieldNamed(owner, name!))) return
    const names = [...new Set(owners.flatMap((owner) => owner.fields.map((field) => field.name)))]
    const where = owners.map((owner) => owner.name).join(', ')
    // The name of a block or type without the sign means its fields.
    const isOwner = owners.length > 1 && owners.some((owner) => answersTo(owner, name!))
    this.#fail(
      item.at,
      isOwner
        ? `\`${name}\` is not a field but what may be here: write \`@${name}(…)\`.`
        : `\`${name!.slice(0, 80)}\` is not a field of ${where}.${didYouMean(name!, names)} Known: ${names.join(', ')}.`,
    )
  }

  /**
   * The selection of one owner.
   * @param common items for all `owners`: each must fit the field of one of them.
   */
  #fieldsOf(
    owner: FieldOwner,
    items: readonly SelectionItem[],
    owners: readonly FieldOwner[],
    common: readonly SelectionItem[],
  ): ChosenField[] {
    const named = new Map<string, { field: Field; items: WrittenField[] }>()
    let isAll = false
    const order: string[] = []
    for (const item of items) {
      if (item.is === 'all') {
        isAll = true
        order.push(...owner.fields.map((field) => field.name))
      } else if (item.is === 'field') {
        const [name] = item.names as [string]
        const field = fieldNamed(owner, name)
        if (!field) continue
        const chosen = named.get(name) ?? { field, items: [] }
        chosen.items.push(item)
        named.set(name, chosen)
        order.push(name)
      }
    }
    return [...new Set(order)].map((name) => {
      const said = named.get(name)
      if (said) return this.#fieldOfMany(name, said.field, said.items, owners, common)
      const field = isAll ? fieldNamed(owner, name)! : undefined
      return this.#fieldFrom(name, field!, [])
    })
  }

  /** A field with its items; whole, where these only fit the field of that name of another owner. */
  #fieldOfMany(
    name: string,
    field: Field,
    items: readonly WrittenField[],
    owners: readonly FieldOwner[],
    common: readonly SelectionItem[],
  ): ChosenField {
    try {
      return this.#fieldFrom(name, field, items)
    } catch (error) {
      const others = owners.flatMap((owner) => fieldNamed(owner, name) ?? []).filter((other) => other !== field)
      if (!items.every((item) => common.includes(item)) || !others.some((other) => this.#goesWith(name, other, items)))
        throw error
      return this.#fieldFrom(name, field, [])
    }
  }

  #goesWith(name: string, field: Field, items: readonly WrittenField[]): boolean {
    try {
      this.#fieldFrom(name, field, items)
      return true
    } catch {
      return false
    }
  }

  #fieldFrom(name: string, field: Field, items: readonly WrittenField[]): ChosenField {
    const options = this.#optionsOf(field, items)
    const written = items.flatMap((item) => item.inside ?? [])
    const chosen = { name, field, ...options }
    const shape = shapeOf(field)
    if (shape.is === 'group' || shape.is === 'blocks') {
      const inside = written.length > 0 ? this.select(written, ownersInside(this.#model, field)) : this.#whole
      return { ...chosen, inside }
    }
    if (written.length === 0) return chosen
    const at = written[0]!.at
    switch (shape.is) {
      case 'reference': {
        const types = shape.to.flatMap((type) => typeNamed(this.#model, type) ?? [])
        return { ...chosen, inside: this.select(written, types) }
      }
      case 'asset':
        return { ...chosen, ...this.#membersOf(field, Object.keys(assetMembers), written) }
      case 'object':
        return { ...chosen, ...this.#membersOf(field, Object.keys(shape.members), written) }
      default:
        return this.#fail(at, `\`${field.name}\` has nothing inside to choose from: it is of kind ${field.kind}.`)
    }
  }

  #membersOf(field: Field, members: readonly string[], items: readonly SelectionItem[]): { members?: string[] } {
    if (items.some((item) => item.is === 'all')) return {}
    return {
      members: items.map((item) => {
        if (item.is === 'of') return this.#fail(item.at, `\`${field.name}\` has members: ${members.join(', ')}.`)
        const { names, inside, options, at } = item as WrittenField
        const name = names.join('.')
        if (!members.includes(name))
          this.#fail(
            at,
            `\`${name.slice(0, 80)}\` is not a member of \`${field.name}\`.${didYouMean(name, members)} Known: ${members.join(', ')}.`,
          )
        if (inside || options.length > 0) this.#fail(at, `\`${name}\` has nothing inside to choose from.`)
        return name
      }),
    }
  }

  #optionsOf(field: Field, items: readonly WrittenField[]): Omit<ChosenField, 'name' | 'field'> {
    const { is } = shapeOf(field)
    const forms: Record<string, OptionForm> = {
      ...(is === 'richText' ? selectionOptions.richText : {}),
      ...(is === 'choice' ? selectionOptions.choice : {}),
      ...(is === 'asset' ? selectionOptions.asset : {}),
      ...(isListForReaders(field) ? selectionOptions.list : {}),
    }
    const read: Record<string, unknown> = {}
    const at: Record<string, number> = {}
    for (const option of items.flatMap((item) => item.options)) {
      const value = this.#optionValue(field, forms, option)
      if (option.name in read && read[option.name] !== value)
        this.#fail(option.at, `\`${option.name}\` of \`${field.name}\` is given twice.`)
      read[option.name] = value
      at[option.name] = option.at
    }
    const { as, first, ...rendition } = read as { as?: RichTextForm | ChoiceForm; first?: number } & Rendition
    if (rendition.fit === 'cover' && (rendition.w === undefined || rendition.h === undefined))
      this.#fail(at['fit']!, '`fit: cover` needs `w` and `h`.')
    return {
      ...(as === undefined ? {} : { as }),
      ...(first === undefined ? {} : { first }),
      ...(Object.keys(rendition).length === 0 ? {} : { rendition }),
    }
  }

  #optionValue(field: Field, forms: Readonly<Record<string, OptionForm>>, { name, value, at }: WrittenOption): unknown {
    const names = Object.keys(forms)
    const form = Object.hasOwn(forms, name) ? forms[name] : undefined
    if (!form)
      return this.#fail(
        at,
        names.length === 0
          ? `\`${field.name}\` takes no options: it is of kind ${field.kind}.`
          : `\`${name.slice(0, 80)}\` is not an option of \`${field.name}\`.${didYouMean(name, names)} Known: ${names.join(', ')}.`,
      )
    const read = form.read(value)
    if (read === undefined) this.#fail(at, `\`${name}\` must be ${form.wants}, not ${value.slice(0, 80)}.`)
    return read
  }
}

const answersTo = (owner: FieldOwner, name: string): boolean =>
  owner.name === name || (owner.aliases?.includes(name) ?? false)

const unnested = (item: SelectionItem): SelectionItem => (item.is === 'field' ? nested(item) : item)

/** `contact.phone` as `contact(phone)`. */
function nested(item: WrittenField): WrittenField {
  const [first, ...rest] = item.names
  if (rest.length === 0) return item
  return { ...item, names: [first!], options: [], inside: [nested({ ...item, names: rest })] }
}
