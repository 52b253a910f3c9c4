/*
 * The result of a selection, as a type: `Picked<Content, Values, 'title, museum(name)'>` has `title`, and the `name` of the museum,
 * and nothing else. Only types: nothing in this file runs. A selection that is computed at run time is any string, and its result
 * is loose.
 */

/** An entry as the Read API prints it. */
export interface Entry<Values = Record<string, unknown>, Type extends string = string> {
  readonly id: string
  readonly type: Type
  readonly locale: string
  /** The locale of its content: another one where it falls back. Use it for `lang` and `dir` of the page. */
  readonly contentLocale: string
  readonly path: string | null
  /** The name of its region, of types that are regional. */
  readonly region?: string
  readonly publishedAt: string | null
  readonly updatedAt: string
  readonly values: Values
  /** With `alternates`: where it can be read in its own words, in the order of the site's locales. */
  readonly alternates?: readonly { readonly locale: string; readonly path: string }[]
  /** With `valueLocales`: the locale of each value that falls back, by its JSON Pointer in `values`. */
  readonly valueLocales?: Readonly<Record<string, string>>
  /** With `freshness`: the translated values that have work left, by their JSON Pointer in `values`. */
  readonly freshness?: Readonly<Record<string, 'missing' | 'outdated' | 'partial'>>
}

/** Values without known types. */
export type LooseValues = Record<string, unknown>

/** The forms of an answer; each is the default when left out. */
export interface AskedForms {
  readonly pick?: string | undefined
  readonly follow?: number | undefined
  readonly richText?: string | undefined
  readonly choices?: string | undefined
}

/** The values of entries of a type, in the requested forms. */
export type ValuesFor<Content extends object, Type extends keyof Content, Asked extends AskedForms> =
  IsLoose<Content[Type]> extends true
    ? Content[Type]
    : 'pick' extends keyof Asked
      ? PickOf<Asked> extends infer Pick extends string
        ? string extends Pick
          ? LooseValues
          : Picked<Content, Content[Type], Pick, FormsOf<Asked>>
        : never
      : AsWhole<Content, Content[Type], FormsOf<Asked>, FollowOf<Asked>>

/** The picked values; all values where certainly nothing is picked. */
type PickOf<Asked extends AskedForms> = [NonNullable<Asked['pick']>] extends [never] ? '*' : NonNullable<Asked['pick']>

/** Entries of any of the types, told apart by `type`. */
export type AnyEntry<Content extends object, Asked extends AskedForms> = string extends keyof Content
  ? Entry
  : { [Type in keyof Content & string]: Entry<ValuesFor<Content, Type, Asked>, Type> }[keyof Content & string]

/** How rich text and choices are printed. */
interface Forms {
  readonly richText: string
  readonly choices: string
}
interface Plain extends Forms {
  readonly richText: 'document'
  readonly choices: 'value'
}
type FormsOf<Asked extends AskedForms> = {
  readonly richText: FormOf<Asked, 'richText', 'document'>
  readonly choices: FormOf<Asked, 'choices', 'value'>
}
type FormOf<
  Asked extends AskedForms,
  Name extends 'richText' | 'choices',
  Otherwise extends string,
> = Name extends keyof Asked
  ? (undefined extends Asked[Name] ? Otherwise : never) | NonNullable<Asked[Name]>
  : Otherwise
type FollowOf<Asked extends AskedForms> = Asked extends { readonly follow: infer Follow extends number } ? Follow : 0

/** Whether values are of unknown types. */
type IsLoose<Values> = string extends keyof Values ? true : false

type Less = [0, 0, 1, 2]

/** All fields, unchanged if nothing else is picked. */
type AsWhole<Content extends object, Values, F extends Forms, Follow extends number> = [F, Follow] extends [Plain, 0]
  ? Values
  : { [Name in keyof Values]: Whole<Content, Values[Name], F, Follow> }

type Whole<Content extends object, Value, F extends Forms, Follow extends number> = Value extends null
  ? null
  : Value extends readonly (infer Item)[]
    ? Whole<Content, Item, F, Follow>[]
    : Value extends RichTextLike
      ? InForm<Value, F['richText']>
      : Value extends AssetLike
        ? Value
        : Value extends BlockLike
          ? { id: string; block: Value['block']; values: AsWhole<Content, Value['values'], F, Follow> }
          : Value extends ItemLike
            ? { id: string; values: AsWhole<Content, Value['values'], F, Follow> }
            : Value extends ReferenceLike
              ? Follow extends 0
                ? Value
                : Followed<Content, Value['type'], F, Follow extends keyof Less ? Less[Follow] & number : 0>
              : Value extends string
                ? InChoice<Value, F['choices']>
                : Value extends object
                  ? AsWhole<Content, Value, F, Follow>
                  : Value

/** The entries that a reference leads to, whole. */
type Followed<Content extends object, Type, F extends Forms, Follow extends number> = Type extends keyof Content &
  string
  ? Entry<AsWhole<Content, Content[Type], F, Follow>, Type>
  : Entry

/** The picked part of some values, for each of the types of blocks or entries. */
export type Picked<
  Content extends object,
  Values,
  Pick extends string,
  F extends Forms = Plain,
> = Values extends unknown ? Of<Content, Values, Items<Pick>, F> : never

/** The picked part of the values of one owner; `name` is its name in the model, for items of this owner only. */
type Of<
  Content extends object,
  Values,
  All extends readonly Item[],
  F extends Forms,
  Name extends string = string,
> = Simplify<
  (HasAll<All> extends true ? { [Key in keyof Values]: FieldOf<Content, Values[Key], '', F> } : unknown) & {
    [Key in NamesOf<All, Name> & keyof Values]: FieldOf<Content, Values[Key], InsideOf<All, Key & string, Name>, F>
  }
>

/** One field, with the items in its parentheses. */
type FieldOf<Content extends object, Value, Inside extends string, F extends Forms> = Value extends null
  ? null
  : Value extends readonly (infer Element)[]
    ? FieldOf<Content, Element, Inside, F>[]
    : Value extends RichTextLike
      ? InForm<Value, OptionOf<Inside, 'as', F['richText']>>
      : Value extends AssetLike
        ? NamesOf<Items<Inside>> extends never
          ? Value
          : Members<Value, NamesOf<Items<Inside>>>
        : Value extends BlockLike
          ? {
              id: string
              block: Value['block']
              values: Within<Content, Value['values'], Inside, F, Value['block']>
            }
          : Value extends ItemLike
            ? { id: string; values: Within<Content, Value['values'], Inside, F> }
            : Value extends ReferenceLike
              ? IsSaid<Inside> extends true
                ? Reached<Content, Value['type'], Inside, F>
                : Value
              : Value extends string
                ? InChoice<Value, OptionOf<Inside, 'as', F['choices']>>
                : Value extends object
                  ? Within<Content, Value, Inside, F>
                  : Value

/** The picked part of a group or a block: all of it without items. */
type Within<Content extends object, Values, Inside extends string, F extends Forms, Name extends string = string> =
  IsSaid<Inside> extends true ? Of<Content, Values, Items<Inside>, F, Name> : AsWhole<Content, Values, F, 0>

/** The referenced entries, with the picked part of each. */
type Reached<Content extends object, Type, Inside extends string, F extends Forms> = Type extends keyof Content & string
  ? Entry<Of<Content, Content[Type], Items<Inside>, F, Type>, Type>
  : Entry

type Members<Value, Names extends string> = { [Name in Names & keyof Value]: Value[Name] }

type InForm<Value, Form extends string> = Form extends 'document' ? Value : string
/** A string with known values is a choice. */
type InChoice<Value extends string, Form extends string> = string extends Value
  ? Value
  : Form extends 'label'
    ? string
    : Form extends 'both'
      ? { value: Value; label: string }
      : Value

interface RichTextLike {
  readonly type: 'root'
  readonly children: readonly unknown[]
}
interface AssetLike {
  readonly address: string
  readonly mediaType: string
}
interface BlockLike {
  readonly id: string
  readonly block: string
  readonly values: object
}
interface ItemLike {
  readonly id: string
  readonly values: object
}
interface ReferenceLike {
  readonly id: string
  readonly type: string
}

/*
 * The grammar of `pick`, read by types: items separated by commas. `*`; `name(inside)`, `name.of.group`; `@owner(inside)` for one
 * type only; and options, `as: html`.
 */

/** An item: its name, and the text in its parentheses. */
type Item = readonly [name: string, inside: string]

/** Items of a text, the commas inside parentheses left alone. */
type Items<Text extends string, All extends readonly Item[] = []> =
  Trim<Text> extends infer Left extends string
    ? Left extends ''
      ? All
      : Left extends `${infer Head},${infer Rest}`
        ? Head extends `${infer Name}(${string}`
          ? Left extends `${Name}(${infer Opened}`
            ? AfterParenthesis<Opened, Name, All>
            : All
          : Items<Rest, [...All, Dotted<Trim<Head>>]>
        : Left extends `${infer Name}(${infer Opened}`
          ? AfterParenthesis<Opened, Name, All>
          : [...All, Dotted<Left>]
    : All

type AfterParenthesis<Opened extends string, Name extends string, All extends readonly Item[]> =
  Close<Opened> extends readonly [infer Inside extends string, infer Rest extends string]
    ? Items<Trim<Rest> extends `,${infer More}` ? More : Trim<Rest>, [...All, Nested<Trim<Name>, Inside>]>
    : All

/** The text before the closing parenthesis, and the text after it. */
type Close<
  Text extends string,
  Before extends string = '',
  Open extends readonly unknown[] = [],
> = Text extends `${infer Part})${infer Rest}`
  ? [...Open, ...Opens<Part>] extends readonly [unknown, ...infer Fewer]
    ? Close<Rest, `${Before}${Part})`, Fewer>
    : [`${Before}${Part}`, Rest]
  : [`${Before}${Text}`, '']
type Opens<Text extends string> = Text extends `${string}(${infer Rest}` ? [unknown, ...Opens<Rest>] : []

/** `contact.phone` is `contact(phone)`. */
type Dotted<Text extends string> = Text extends `${infer First}.${infer Rest}` ? [First, Rest] : [Text, '']
type Nested<Name extends string, Inside extends string> = Name extends `${infer First}.${infer Rest}`
  ? [First, `${Rest}(${Inside})`]
  : [Name, Inside]

type IsOption<Name extends string> = Name extends `${string}:${string}` ? true : false

/** The fields of one owner that items name: for all owners, and for this one only. */
type NamesOf<All extends readonly Item[], Owner extends string = string> = All[number] extends infer Each
  ? Each extends readonly [infer Name extends string, infer Inside extends string]
    ? Name extends '*'
      ? never
      : Name extends `@${infer Of}`
        ? Of extends Owner
          ? NamesOf<Items<Inside>>
          : never
        : IsOption<Name> extends true
          ? never
          : Name
    : never
  : never

/** The items in the parentheses of a field, joined where it is named more than once. */
type InsideOf<
  All extends readonly Item[],
  Name extends string,
  Owner extends string,
  Joined extends string = '',
> = All extends readonly [infer First extends Item, ...infer Rest extends readonly Item[]]
  ? InsideOf<
      Rest,
      Name,
      Owner,
      First[0] extends Name
        ? Join<Joined, First[1]>
        : First[0] extends `@${infer Of}`
          ? Of extends Owner
            ? Join<Joined, InsideOf<Items<First[1]>, Name, Owner>>
            : Joined
          : Joined
    >
  : Joined
type Join<A extends string, B extends string> = A extends '' ? B : B extends '' ? A : `${A},${B}`

type HasAll<All extends readonly Item[]> = '*' extends All[number][0] ? true : false

/** Whether there is anything but options. */
type IsSaid<Inside extends string> = Inside extends ''
  ? false
  : [NamesOf<Items<Inside>>] extends [never]
    ? Inside extends `${string}*${string}` | `${string}@${string}`
      ? true
      : false
    : true

/** The value of an option; its default otherwise. */
type OptionOf<Inside extends string, Option extends string, Otherwise extends string> = Inside extends ''
  ? Otherwise
  : Items<Inside>[number] extends infer Each
    ? [Said<Each, Option>] extends [never]
      ? Otherwise
      : Said<Each, Option>
    : Otherwise
type Said<Each, Option extends string> = Each extends readonly [`${infer Name}:${infer Value}`, string]
  ? Trim<Name> extends Option
    ? Trim<Value>
    : never
  : never

type Space = ' ' | '\n' | '\t'
type Trim<Text extends string> = Text extends `${Space}${infer Rest}`
  ? Trim<Rest>
  : Text extends `${infer Rest}${Space}`
    ? Trim<Rest>
    : Text

type Simplify<T> = T extends unknown ? { [Key in keyof T]: T[Key] } : never
