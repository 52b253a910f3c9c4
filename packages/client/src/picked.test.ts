import { describe, expectTypeOf, it } from 'vitest'
import type { Entry, Picked } from './picked.js'
import { Reader } from './reader.js'

interface Asset {
  id: string
  address: string
  mediaType: string
  alt: string | null
}
interface RichText {
  type: 'root'
  children: { type: string }[]
}
interface ReferenceTo<Type extends string> {
  id: string
  type: Type
}
interface Quote {
  id: string
  block: 'quote'
  values: { text: string | null; by: ReferenceTo<'person'> | null }
}
interface Picture {
  id: string
  block: 'picture'
  values: { file: Asset | null; caption: string | null }
}
interface Content {
  museum: { name: string | null; town: string | null; contact: { phone: string | null; mail: string | null } }
  person: { name: string | null }
  activity: {
    title: string | null
    format: 'walk' | 'talk' | null
    minutes: number | null
    museum: ReferenceTo<'museum'> | null
    about: ReferenceTo<'museum' | 'person'>[]
    cover: Asset | null
    story: RichText | null
    hours: { id: string; values: { day: string | null; from: string | null } }[]
    body: (Quote | Picture)[]
  }
}
const reader = new Reader<Content>({ baseUrl: '', site: 'm' })
type Activity<Pick extends string> = Picked<Content, Content['activity'], Pick>
/** The answer of a call that is never made: only its type is read. */
type AnswerOf<Call extends (...given: never[]) => Promise<unknown>> = Awaited<ReturnType<Call>>
type ValuesOf<Page extends { entries: readonly { values: unknown }[] }> = Page['entries'][number]['values']

describe('the type of what is picked', () => {
  it('has the fields that are named, and no other', () => {
    expectTypeOf<Activity<'title, minutes'>>().toEqualTypeOf<{ title: string | null; minutes: number | null }>()
    expectTypeOf<Activity<' title ,\n title '>>().toEqualTypeOf<{ title: string | null }>()
    expectTypeOf<keyof Activity<'nothing'>>().toEqualTypeOf<never>()
  })
  it('has what is named of the entries that a reference leads to', () => {
    expectTypeOf<Activity<'museum'>>().toEqualTypeOf<{ museum: ReferenceTo<'museum'> | null }>()
    expectTypeOf<Activity<'museum(name)'>>().toEqualTypeOf<{
      museum: Entry<{ name: string | null }, 'museum'> | null
    }>()
    expectTypeOf<Activity<'museum(name), museum(town)'>['museum']>().toEqualTypeOf<Entry<
      { name: string | null; town: string | null },
      'museum'
    > | null>()
    expectTypeOf<Activity<'about(name, @museum(town))'>['about']>().toEqualTypeOf<
      (Entry<{ name: string | null; town: string | null }, 'museum'> | Entry<{ name: string | null }, 'person'>)[]
    >()
    expectTypeOf<Activity<'about(first: 2)'>['about']>().toEqualTypeOf<ReferenceTo<'museum' | 'person'>[]>()
  })
  it('has what is named inside groups, blocks and assets', () => {
    expectTypeOf<Picked<Content, Content['museum'], 'contact.phone'>>().toEqualTypeOf<{
      contact: { phone: string | null }
    }>()
    expectTypeOf<Activity<'hours(day)'>['hours']>().toEqualTypeOf<{ id: string; values: { day: string | null } }[]>()
    expectTypeOf<Activity<'cover(w: 640, address, alt)'>['cover']>().toEqualTypeOf<{
      address: string
      alt: string | null
    } | null>()
    type Body = Activity<'body(@quote(text), @picture(file(address)))'>['body'][number]
    expectTypeOf<Extract<Body, { block: 'quote' }>['values']>().toEqualTypeOf<{ text: string | null }>()
    expectTypeOf<Extract<Body, { block: 'picture' }>['values']>().toEqualTypeOf<{ file: { address: string } | null }>()
  })
  it('follows the form of rich text and choices', () => {
    expectTypeOf<Activity<'story'>>().toEqualTypeOf<{ story: RichText | null }>()
    expectTypeOf<Activity<'story(as: html)'>>().toEqualTypeOf<{ story: string | null }>()
    expectTypeOf<Activity<'format(as: both)'>>().toEqualTypeOf<{
      format: { value: 'walk'; label: string } | { value: 'talk'; label: string } | null
    }>()
    expectTypeOf<Activity<'format(as: label)'>>().toEqualTypeOf<{ format: string | null }>()
  })
  it('takes all fields, and says more of some', () => {
    type All = Activity<'*, museum(name)'>
    expectTypeOf<All['title']>().toEqualTypeOf<string | null>()
    expectTypeOf<All['museum']>().toExtend<Entry<{ name: string | null }, 'museum'> | object | null>()
    expectTypeOf<keyof All>().toEqualTypeOf<keyof Content['activity']>()
  })
})

describe('the type of what a reader answers', () => {
  it('follows pick, follow and forms', () => {
    const _whole = () => reader.entries('activity')
    expectTypeOf<ValuesOf<AnswerOf<typeof _whole>>>().toEqualTypeOf<Content['activity']>()
    const _picked = () => reader.entries('activity', { pick: 'title, museum(name)', first: 3 })
    expectTypeOf<ValuesOf<AnswerOf<typeof _picked>>>().toEqualTypeOf<{
      title: string | null
      museum: Entry<{ name: string | null }, 'museum'> | null
    }>()
    const _followed = () => reader.entries('activity', { follow: 1, richText: 'html' })
    type Followed = ValuesOf<AnswerOf<typeof _followed>>
    expectTypeOf<NonNullable<Followed['museum']>['values']['town']>().toEqualTypeOf<string | null>()
    expectTypeOf<Followed['story']>().toEqualTypeOf<string | null>()
    expectTypeOf<Followed['format']>().toEqualTypeOf<'walk' | 'talk' | null>()
    const _labelled = () => reader.only('activity', { choices: 'label' })
    expectTypeOf<NonNullable<AnswerOf<typeof _labelled>>['values']['format']>().toEqualTypeOf<string | null>()
  })
  it('is told apart by the type of the entry at a path', () => {
    const _at = async () => {
      const answer = await reader.at('/x', { pick: 'name, title' })
      if (!answer || !('entry' in answer)) return undefined
      return answer.entry.type === 'museum' ? answer.entry.values : undefined
    }
    expectTypeOf<AnswerOf<typeof _at>>().toEqualTypeOf<{ name: string | null } | undefined>()
  })
  it('is loose where a selection is put together at run time, or nothing is known', () => {
    const _computed = (pick: string) => reader.entries('activity', { pick })
    expectTypeOf<ValuesOf<AnswerOf<typeof _computed>>>().toEqualTypeOf<Record<string, unknown>>()
    const any = new Reader({ baseUrl: '', site: 'm' })
    const _entries = () => any.entries('whatever', { pick: 'title' })
    expectTypeOf<ValuesOf<AnswerOf<typeof _entries>>>().toEqualTypeOf<Record<string, unknown>>()
    const _found = () => any.at('/x')
    expectTypeOf<Extract<AnswerOf<typeof _found>, { entry: unknown }>['entry']>().toEqualTypeOf<Entry>()
  })
})
