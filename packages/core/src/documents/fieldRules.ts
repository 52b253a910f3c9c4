import { factsIn, type Facts, type ReadField, type Values } from './facts.js'
import {
  anyField,
  insideGroup,
  type Check,
  type Field,
  type FieldOwner,
  type Model,
  type Section,
} from '../model/model.js'
import { readCondition } from '../conditions/check.js'
import { isOfField, type CheckedCondition, type Condition } from '../conditions/condition.js'
import { meets, type Candidate } from '../conditions/evaluate.js'

/*
 * Rules of fields and sections: `showIf`, `requireIf`, `lockIf`. They see the fields around them (of the entry, of the block, of
 * the group) as stored, hidden or not, and no moment: their results change with those fields alone.
 */

/** The results of a field's rules. */
export interface FieldRuleState {
  readonly isShown: boolean
  readonly isRequired: boolean
  readonly isLocked: boolean
}

const plain: FieldRuleState = { isShown: true, isRequired: false, isLocked: false }
const required: FieldRuleState = { isShown: true, isRequired: true, isLocked: false }

interface RuleCondition extends CheckedCondition {
  /** The fields that a rule reads, or the groups around them. */
  readonly needs: ReadonlySet<string>
}

const conditions = new WeakMap<FieldOwner, Map<string, RuleCondition>>()

function ruleCondition(model: Model, owner: FieldOwner, text: string): RuleCondition {
  const rules = conditions.get(owner) ?? new Map<string, RuleCondition>()
  conditions.set(owner, rules)
  const rule = rules.get(text)
  if (rule) return rule
  const checked = readCondition(text, { model, owners: [owner], systemFacts: ['state'], timeZone: 'UTC', own: true })
  const spoken = new Set(fieldsIn(checked.condition))
  const holds = (field: Field): boolean => spoken.has(field.id) || (insideGroup(field)?.fields ?? []).some(holds)
  const condition = { ...checked, needs: new Set(owner.fields.filter(holds).map((field) => field.id)) }
  rules.set(text, condition)
  return condition
}

/** Whether a rule holds for the values of an owner. `state` is that of the entry in the locale in question. */
export function ruleHolds(
  model: Model,
  owner: FieldOwner,
  text: string,
  values: Values,
  read: ReadField,
  state?: string,
): boolean {
  const { condition, needs } = ruleCondition(model, owner, text)
  const narrowed = { ...owner, fields: owner.fields.filter((field) => needs.has(field.id)) }
  const candidate = candidateOf(factsIn(narrowed, values, read))
  return meets(condition, state === undefined ? candidate : { ...candidate, system: { state } }, never)
}

/**
 * Whether a rule across fields holds, or does not apply yet: a comparison of two fields waits until both have a value. Hidden
 * values count as missing.
 */
export function checkHolds(
  model: Model,
  owner: FieldOwner,
  { holds }: Check,
  values: Values,
  read: ReadField,
): boolean {
  const { condition } = ruleCondition(model, owner, holds)
  const facts = factsIn(owner, values, read, (around, field, inside) => isShownAt(model, around, field, inside, read))
  const isThere = (field: string): boolean =>
    facts.facts[field] !== undefined || (facts.references[field]?.length ?? 0) > 0
  if (!comparedFields(condition).every(isThere)) return true
  return meets(condition, candidateOf(facts), never)
}

/** The ids of the fields that a rule across fields is about. */
export const fieldsOfCheck = (model: Model, owner: FieldOwner, { holds }: Check): readonly string[] =>
  fieldsIn(ruleCondition(model, owner, holds).condition)

/** The ids of fields that a condition compares with one another. */
function comparedFields(condition: Condition): string[] {
  switch (condition.is) {
    case 'and':
    case 'or':
      return condition.of.flatMap(comparedFields)
    case 'not':
      return comparedFields(condition.of)
    case 'compare': {
      const { subject, value } = condition
      if (!isOfField(value) || subject.fact.is === 'system') return []
      return [...subject.fact.fields, value.field]
    }
    default:
      // Elements of a group without a value do not match inside `any`.
      return []
  }
}

const never = { now: 0, timeZone: 'UTC' }

/** Facts alone as conditions see them: references lead to ids, and nowhere beyond. */
export function candidateOf(facts: Facts): Candidate {
  return {
    id: '',
    facts: facts.facts,
    system: {},
    follow: (field) =>
      (facts.references[field] ?? []).map((id) => ({
        id,
        facts: {},
        system: {},
        follow: () => [],
        elements: () => [],
      })),
    elements: (group) => (facts.elements[group] ?? []).map(candidateOf),
  }
}

/** The ids of the fields in a condition. */
export function fieldsIn(condition: Condition): string[] {
  switch (condition.is) {
    case 'and':
    case 'or':
      return condition.of.flatMap(fieldsIn)
    case 'not':
      return fieldsIn(condition.of)
    case 'any':
      return [...condition.step.fields, ...fieldsIn(condition.where)]
    default: {
      const { steps, fact } = condition.subject
      const other = condition.is === 'compare' && isOfField(condition.value) ? [condition.value.field] : []
      return [...steps.flatMap((step) => step.fields), ...(fact.is === 'system' ? [] : fact.fields), ...other]
    }
  }
}

const withRules = new WeakMap<FieldOwner, boolean>()
const ruled = (ruling: Field | Section): boolean =>
  ruling.showIf !== undefined || ruling.requireIf !== undefined || ruling.lockIf !== undefined

/** Whether an owner's own fields or sections have any rule. */
export function hasRules(owner: FieldOwner): boolean {
  const cached = withRules.get(owner)
  if (cached !== undefined) return cached
  const answer = owner.fields.some(ruled) || (owner.sections ?? []).some(ruled)
  withRules.set(owner, answer)
  return answer
}

const withRulesInside = new WeakMap<Model, Map<string, boolean>>()

/** Whether anything of an owner, at any depth, has a rule. */
export function hasRulesInside(model: Model, owner: FieldOwner): boolean {
  const cached = withRulesInside.get(model) ?? new Map<string, boolean>()
  withRulesInside.set(model, cached)
  const answer = cached.get(owner.id) ?? (hasRules(owner) || anyField(model, owner, (_, around) => hasRules(around)))
  cached.set(owner.id, answer)
  return answer
}

/** The results for a field: of its own rules, and of those of its section. */
export function fieldRuleState(
  model: Model,
  owner: FieldOwner,
  field: Field,
  values: Values,
  read: ReadField,
  state?: string,
): FieldRuleState {
  if (!hasRules(owner)) return field.required ? required : plain
  const section =
    field.section === undefined ? undefined : owner.sections?.find((candidate) => candidate.name === field.section)
  const ask = (text: string | undefined, otherwise: boolean): boolean =>
    text === undefined ? otherwise : ruleHolds(model, owner, text, values, read, state)
  const isShown = ask(section?.showIf, true) && ask(field.showIf, true)
  return {
    isShown,
    isRequired: isShown && (field.required || ask(field.requireIf, false) || ask(section?.requireIf, false)),
    isLocked: ask(field.lockIf, false) || ask(section?.lockIf, false),
  }
}

/** Whether a field is shown at its place. */
export const isShownAt = (model: Model, owner: FieldOwner, field: Field, values: Values, read: ReadField): boolean =>
  !hasRules(owner) || fieldRuleState(model, owner, field, values, read).isShown
