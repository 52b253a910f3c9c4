import { readCondition } from '../../conditions/check.js'
import { fieldsIn } from '../../documents/fieldRules.js'
import { misfitOfDefault, readDefaultExpression } from '../../documents/defaults.js'
import { WisteriaError } from '../../base/errors.js'
import type { Field, Rules } from '../../model/model.js'
import type { ModelCheck, Owner } from './check.js'
import { eachOwner } from './check.js'

const names = ['showIf', 'requireIf', 'lockIf'] as const

/** Conditions of fields, sections and rules across fields are valid, and defaults can be stored. */
export const rules: ModelCheck = (proposed, tell) => {
  const { model, site } = proposed
  const checkRules = (
    owner: Owner,
    rules: Rules,
    at: readonly (string | number)[],
    onlyShared: boolean,
    self?: Field,
  ) => {
    for (const name of names) {
      const text = rules[name]
      if (text === undefined) continue
      const systemFacts = name === 'lockIf' ? (['state'] as const) : []
      attempt(owner, [...at, name], () => {
        const { condition } = readCondition(text, {
          model,
          owners: [owner.made],
          systemFacts,
          timeZone: site.timeZone,
          own: true,
          onlyShared,
        })
        if (name === 'showIf' && self && fieldsIn(condition).includes(self.id))
          throw new WisteriaError(
            'badCondition',
            `\`showIf\` asks ${self.name} itself: once hidden it could never be shown again.`,
          )
      })
    }
  }
  const attempt = (owner: Owner, at: readonly (string | number)[], work: () => void): void => {
    try {
      work()
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      tell(owner.located.problem(at, 'badCondition', `\`${at.at(-1)}\`: ${error.message}`))
    }
  }
  eachOwner(proposed, (owner) => {
    for (const field of owner.made.fields) {
      const at = [...owner.at, 'fields', field.name]
      if (field.checks && field.kind !== 'group')
        tell(
          owner.located.problem(
            [...at, 'check'],
            'badOption',
            '`check` belongs to a type, a block type or a group: it is a rule across the fields in it.',
          ),
        )
      checkRules(owner, field, at, !field.localized, field)
      const { default: start } = field
      if (start === undefined) continue
      if ('value' in start) {
        const wrong = misfitOfDefault(model, field, start.value, site.locales)
        if (wrong) tell(owner.located.problem([...at, 'default'], 'badOption', `\`default\`: ${wrong}`))
      } else
        attempt(owner, [...at, 'default'], () => {
          const context = { model, owners: [owner.made], systemFacts: [], timeZone: site.timeZone, own: true } as const
          const read = readDefaultExpression(start.expression, field, owner.made, context)
          if (typeof read === 'string') throw new WisteriaError('badCondition', read.endsWith('.') ? read : `${read}.`)
        })
    }
    for (const { holds } of owner.made.checks ?? [])
      attempt(owner, [...owner.at, 'check'], () =>
        readCondition(holds, { model, owners: [owner.made], systemFacts: [], timeZone: site.timeZone, own: true }),
      )
    for (const section of owner.made.sections ?? []) {
      const inside = owner.made.fields.filter((field) => field.section === section.name)
      checkRules(
        owner,
        section,
        ['sections', section.name],
        inside.some((field) => !field.localized),
      )
    }
  })
}
