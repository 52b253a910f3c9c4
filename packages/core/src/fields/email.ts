import { z } from 'zod'
import { fold } from '../text/fold.js'
import { defineKind } from './kind.js'

/** The HTML standard's form of a valid e-mail address, with a domain that has a dot. */
const form =
  /^[a-zA-Z0-9.!#$%&'*+/=?^_`{|}~-]+@[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?(?:\.[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?)+$/

export const isEmail = (value: unknown): value is string =>
  typeof value === 'string' && value.length <= 254 && form.test(value)

export const email = defineKind({
  name: 'email',
  label: 'E-mail address',
  summary: 'An e-mail address, as the HTML standard defines it.',
  example: 'mail: { kind: email }',
  options: z.strictObject({}),
  descriptions: {},
  indexed: false,
  shape: () => ({ is: 'scalar', scalar: 'string', format: 'email' }),
  checkForm: (value) => (isEmail(value) ? undefined : 'must be an e-mail address such as `ask@marram.example`'),
  checkRules: () => [],
  comparison: 'text',
  fact: (value) => fold(value as string),
  sample: (_, seed) => `visitor${seed}@marram.example`,
})
