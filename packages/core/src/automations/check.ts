import { pointerTo, WisteriaError, type Problem } from '../base/errors.js'
import { readCondition } from '../conditions/check.js'
import { draftFacts, type SystemFact } from '../conditions/condition.js'
import { isEventType } from '../events/event.js'
import { readExpression, readTest, type CheckedExpression, type Root } from '../expressions/check.js'
import { valueOfExpression, type Data, type Scope } from '../expressions/evaluate.js'
import type { Moment } from '../conditions/evaluate.js'
import { localeTags, type SiteSettings } from '../locales/settings.js'
import { fieldNamed, kindOf, typeNamed, type ContentType, type Model } from '../model/model.js'
import { readChangeCondition } from '../publishing/entryChange.js'
import { didYouMean } from '../text/nearest.js'
import {
  weekdays,
  type Automation,
  type SingleStep,
  type Each,
  type AutomationStep,
  type StepValue,
} from './automation.js'

/** A value whose expressions fit the model. */
export type ReadyValue =
  | { readonly is: 'expression'; readonly of: CheckedExpression }
  | { readonly is: 'constant'; readonly of: number | boolean | null }
  | { readonly is: 'list'; readonly of: readonly ReadyValue[] }
  | { readonly is: 'object'; readonly of: ReadonlyMap<string, ReadyValue> }

/** A step whose parts fit the model. */
export interface ReadyStep {
  readonly step: AutomationStep
  readonly if: CheckedExpression | undefined
  /** Its values, by the name of the part. */
  readonly parts: Readonly<Record<string, ReadyValue>>
  /** Of `create`, and of `each` over entries. */
  readonly type?: ContentType | undefined
  /** Of `each`. */
  readonly steps: readonly ReadyStep[]
}

export interface ReadyAutomation {
  readonly automation: Automation
  /** Of a start by an address: the condition and the key. */
  readonly where?: CheckedExpression | undefined
  readonly key?: CheckedExpression | undefined
  readonly steps: readonly ReadyStep[]
}

/** The facts of an entry that steps may use. */
const facts: readonly SystemFact[] = ['id', 'type', 'region', 'state']

/** The parts of each kind of step that hold expressions; those that may use secrets. */
const partsOf: Readonly<Record<AutomationStep['do'], readonly string[]>> = {
  each: ['in'],
  compute: ['values'],
  create: ['values'],
  set: ['entry', 'values'],
  publish: ['entry'],
  withdraw: ['entry'],
  schedule: ['entry', 'at'],
  translate: ['entry'],
  call: ['address', 'headers', 'body'],
  chat: ['address', 'text'],
  mail: ['to', 'subject', 'text'],
  wait: ['until'],
}
const secretParts: readonly string[] = ['address', 'headers']

/**
 * Finds types, fields and locales of an automation in the model, and reads its expressions.
 * @throws WisteriaError `invalid` with every problem, each with a pointer into the automation.
 */
export const readAutomation = (automation: Automation, model: Model, settings: SiteSettings): ReadyAutomation =>
  new Check(automation, model, settings).ready()

class Check {
  readonly #automation: Automation
  readonly #model: Model
  readonly #settings: SiteSettings
  readonly #problems: Problem[] = []

  constructor(automation: Automation, model: Model, settings: SiteSettings) {
    this.#automation = automation
    this.#model = model
    this.#settings = settings
  }

  ready(): ReadyAutomation {
    const { automation, rights = {}, steps } = this.#automation
    this.#types(rights.types, '/rights/types')
    this.#locales(rights.locales, '/rights/locales')
    const more = this.#start()
    const roots = this.#rootsAtStart()
    const ready = this.#steps(steps, '/steps', roots)
    if (this.#problems.length > 0)
      throw new WisteriaError(
        'invalid',
        this.#problems.length === 1
          ? `The automation \`${automation}\` has a problem: ${this.#problems[0]!.message}`
          : `The automation \`${automation}\` has ${this.#problems.length} problems. The first: ${this.#problems[0]!.message}`,
        { problems: this.#problems },
      )
    return { automation: this.#automation, ...more, steps: ready }
  }

  /** What paths can begin with when it starts. */
  #rootsAtStart(): Record<string, Root> {
    const { starts } = this.#automation
    const typed = (names: readonly string[] | undefined): Root => ({
      types: names ? names.flatMap((name) => typeNamed(this.#model, name) ?? []) : this.#model.types,
    })
    if (starts.by === 'event') {
      const root = typed(starts.types)
      return { trigger: {}, entry: root, before: root, after: root }
    }
    return starts.by === 'hand' && starts.on === 'entry' ? { trigger: {}, entry: typed(starts.types) } : { trigger: {} }
  }

  #start(): Pick<ReadyAutomation, 'where' | 'key'> {
    const { starts } = this.#automation
    switch (starts.by) {
      case 'event': {
        starts.events.forEach((event, index) => {
          if (!isEventType(event) || !event.startsWith('entry.'))
            this.#problem(`/starts/events/${index}`, 'unknownEvent', `\`${event}\` is not an event of an entry.`)
        })
        this.#types(starts.types, '/starts/types')
        const { where } = starts
        if (where !== undefined) this.#try('/starts/where', () => readChangeCondition(where, this.#model))
        return {}
      }
      case 'hand':
        this.#types(starts.types, '/starts/types')
        return {}
      case 'timetable': {
        const { every, on = [] } = starts
        const fits = (day: string | number): boolean =>
          every === 'week'
            ? (weekdays as readonly unknown[]).includes(day)
            : every === 'month' && typeof day === 'number'
        if (!on.every(fits))
          this.#problem(
            '/starts/on',
            'badDay',
            every === 'week'
              ? `The days of a week are ${weekdays.join(', ')}.`
              : every === 'month'
                ? 'The days of a month are numbers from 1 to 31.'
                : `\`on\` goes with \`week\` and \`month\`, and not with \`${every}\`.`,
          )
        return {}
      }
      case 'address': {
        const roots = { trigger: {} }
        const { where, key } = starts
        return {
          where: where === undefined ? undefined : this.#try('/starts/where', () => this.#test(where, roots)),
          key: key === undefined ? undefined : this.#try('/starts/key', () => this.#expression(key, roots)),
        }
      }
    }
  }

  #steps(steps: readonly AutomationStep[], at: string, before: Record<string, Root>): ReadyStep[] {
    const names = new Set<string>()
    let roots = before
    return steps.map((step, index) => {
      const pointer = `${at}/${index}`
      const ready = this.#step(step, pointer, roots)
      if (step.name !== undefined) {
        if (names.has(step.name))
          this.#problem(`${pointer}/name`, 'nameTaken', `Another step is named \`${step.name}\` already.`)
        names.add(step.name)
        roots = { ...roots, steps: {} }
      }
      return ready
    })
  }

  #step(step: AutomationStep, pointer: string, roots: Record<string, Root>): ReadyStep {
    const { if: condition } = step
    const parts: Record<string, ReadyValue> = {}
    for (const name of partsOf[step.do]) {
      const value = (step as unknown as Readonly<Record<string, StepValue | undefined>>)[name]
      if (value === undefined) continue
      const known = secretParts.includes(name) ? { ...roots, secrets: {} } : roots
      const ready = this.#value(value, `${pointer}/${name}`, known)
      if (ready) parts[name] = ready
    }
    if (
      partsOf[step.do].includes('entry') &&
      !('entry' in step && step.entry !== undefined) &&
      !roots['item'] &&
      !roots['entry']
    )
      this.#problem(pointer, 'noEntry', `\`${step.do}\` needs \`entry\`: nothing says here which entry is meant.`)
    const test = condition === undefined ? undefined : this.#try(`${pointer}/if`, () => this.#test(condition, roots))
    if ('locales' in step) this.#locales(step.locales, `${pointer}/locales`)
    const type = 'type' in step && step.type !== undefined ? this.#type(step.type, `${pointer}/type`) : undefined
    if (step.do === 'create' && type) this.#create(step, type, pointer)
    const steps = step.do === 'each' ? this.#each(step, type, pointer, roots) : []
    return { step, if: test, parts, type, steps }
  }

  #create(step: Extract<SingleStep, { do: 'create' }>, type: ContentType, pointer: string): void {
    const { key, values } = step
    const fieldNames = type.fields.map(({ name }) => name)
    const field = key === undefined ? undefined : fieldNamed(type, key)
    if (key !== undefined && !field)
      this.#problem(
        `${pointer}/key`,
        'unknownField',
        `\`${key}\` is not a field of ${type.name}.${didYouMean(key, fieldNames)}`,
      )
    if (field && kindOf(field).comparison === 'presence')
      this.#problem(
        `${pointer}/key`,
        'badKey',
        `Entries are not found by \`${field.name}\`: it is of kind ${field.kind}.`,
      )
    if (typeof values !== 'object' || values === null || Array.isArray(values))
      return this.#problem(
        `${pointer}/values`,
        'badValues',
        'The values of an entry are an object, by the names of its fields.',
      )
    for (const name of Object.keys(values))
      if (!fieldNamed(type, name))
        this.#problem(
          pointerTo(pointer, 'values', name),
          'unknownField',
          `\`${name}\` is not a field of ${type.name}.${didYouMean(name, fieldNames)}`,
        )
    if (key !== undefined && field && !(key in values))
      this.#problem(`${pointer}/key`, 'badKey', `The key \`${key}\` is not among the values.`)
  }

  #each(step: Each, type: ContentType | undefined, pointer: string, roots: Record<string, Root>): ReadyStep[] {
    const { in: list, where } = step
    if ((list === undefined) === (step.type === undefined))
      this.#problem(
        pointer,
        'badList',
        '`each` has either `in`, which is a list, or `type`, for the entries of a type.',
      )
    if (where !== undefined && step.type === undefined)
      this.#problem(
        `${pointer}/where`,
        'badList',
        '`where` goes with `type`. Items of a list are chosen by `if` of a step.',
      )
    if (where !== undefined && type)
      this.#try(`${pointer}/where`, () =>
        readCondition(where, {
          model: this.#model,
          owners: [type],
          systemFacts: draftFacts,
          timeZone: this.#settings.timeZone,
        }),
      )
    return this.#steps(step.steps, `${pointer}/steps`, { ...roots, item: type ? { types: [type] } : {} })
  }

  #value(value: StepValue, pointer: string, roots: Record<string, Root>): ReadyValue | undefined {
    if (typeof value === 'string') {
      const of = this.#try(pointer, () => this.#expression(value, roots))
      return of && { is: 'expression', of }
    }
    if (typeof value !== 'object' || value === null) return { is: 'constant', of: value }
    if (Array.isArray(value))
      return {
        is: 'list',
        of: (value as readonly StepValue[]).flatMap(
          (item, index) => this.#value(item, pointerTo(pointer, index), roots) ?? [],
        ),
      }
    const entries = Object.entries(value as Readonly<Record<string, StepValue>>).flatMap(([name, item]) => {
      const ready = this.#value(item, pointerTo(pointer, name), roots)
      return ready ? [[name, ready] as const] : []
    })
    return { is: 'object', of: new Map(entries) }
  }

  #context = (roots: Record<string, Root>) => ({ model: this.#model, roots, facts, follows: false })
  #expression = (text: string, roots: Record<string, Root>): CheckedExpression =>
    readExpression(text, this.#context(roots))
  #test = (text: string, roots: Record<string, Root>): CheckedExpression => readTest(text, this.#context(roots))

  #type(name: string, pointer: string): ContentType | undefined {
    const type = typeNamed(this.#model, name)
    if (!type)
      this.#problem(
        pointer,
        'unknownType',
        `\`${name}\` is not a type of ${this.#settings.label}.${didYouMean(
          name,
          this.#model.types.map((known) => known.name),
        )}`,
      )
    return type
  }

  #types(names: readonly string[] | undefined, pointer: string): void {
    names?.forEach((name, index) => this.#type(name, `${pointer}/${index}`))
  }

  #locales(tags: readonly string[] | undefined, pointer: string): void {
    const known = localeTags(this.#settings)
    tags?.forEach((tag, index) => {
      if (!known.includes(tag))
        this.#problem(
          `${pointer}/${index}`,
          'unknownLocale',
          `\`${tag}\` is not a locale of ${this.#settings.label}.${didYouMean(tag, known)}`,
        )
    })
  }

  #try<Result>(pointer: string, work: () => Result): Result | undefined {
    try {
      return work()
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      this.#problem(pointer, error.code, error.message)
      return undefined
    }
  }

  #problem(pointer: string, code: string, message: string): void {
    this.#problems.push({ code, pointer, message })
  }
}

/**
 * The value of a part of a step. Where an expression has no value, neither has its place.
 * @param convert what becomes of the value of an expression.
 */
export function valueOf(
  ready: ReadyValue,
  scope: Scope,
  moment: Moment,
  convert: (value: Data) => Data = (value) => value,
): Data {
  switch (ready.is) {
    case 'expression':
      return convert(valueOfExpression(ready.of, scope, moment))
    case 'constant':
      return ready.of
    case 'list':
      return ready.of.map((item) => valueOf(item, scope, moment, convert)).filter((item) => item !== undefined)
    case 'object':
      return Object.fromEntries([...ready.of].map(([name, item]) => [name, valueOf(item, scope, moment, convert)]))
  }
}
