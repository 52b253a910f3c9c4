import { z } from 'zod'
import { defineKind } from './kind.js'

export const group = defineKind<{ fields: Record<string, unknown> }>({
  name: 'group',
  label: 'Group',
  summary:
    'Fields that belong together, in `fields`; with `many: true` they can be repeated. The fields inside may be localized, the group itself is not.',
  example: 'contact: { kind: group, fields: { phone: { kind: text }, mail: { kind: email } } }',
  options: z.strictObject({ fields: z.record(z.string(), z.unknown()) }),
  descriptions: { fields: 'The fields inside, as a type has them.' },
  indexed: false,
  shared: true,
  shape: () => ({ is: 'group' }),
  // Like a block, it is read by the walk over its own fields.
  checkForm: () => undefined,
  checkRules: () => [],
  comparison: 'presence',
  fact: () => 1,
  sample: () => undefined,
})
