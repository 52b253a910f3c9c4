import { integer, key, nullable, table, text, type RowOf } from './table.js'

export const accounts = table('accounts', {
  id: key(text),
  email: text,
  name: text,
  password: text,
  operator: integer,
  created_at: text,
  /** Since when it may not sign in. */
  disabled_at: nullable(text),
  language: nullable(text),
  time_zone: nullable(text),
})
export type AccountRow = RowOf<typeof accounts>

/** A one-time link to set a new password, by the digest of its code. */
export const passwordLinks = table('password_links', {
  hash: key(text),
  account: text,
  created_by: text,
  created_at: text,
  expires_at: text,
})
export type PasswordLinkRow = RowOf<typeof passwordLinks>

export const memberships = table('memberships', {
  account: key(text),
  site: key(text),
  role: text,
  locales: nullable(text),
  created_at: text,
  regions: nullable(text),
})
export type MembershipRow = RowOf<typeof memberships>

/** An open invitation to a site, by the digest of the code in its link. */
export const invitations = table('invitations', {
  id: key(text),
  site: text,
  email: text,
  role: text,
  locales: nullable(text),
  hash: text,
  created_at: text,
  created_by: text,
  expires_at: text,
  regions: nullable(text),
})
export type InvitationRow = RowOf<typeof invitations>

export const sessions = table('sessions', {
  hash: key(text),
  account: text,
  created_at: text,
  expires_at: text,
  /** The browser or program, as it named itself. */
  agent: nullable(text),
  /** When it was last used, to the hour. */
  seen_at: nullable(text),
})
export type SessionRow = RowOf<typeof sessions>

export const accessKeys = table('access_keys', {
  id: key(text),
  site: text,
  label: text,
  scope: text,
  prefix: text,
  hash: text,
  created_at: text,
  created_by: text,
  last_used_at: nullable(text),
  revoked_at: nullable(text),
})
export type AccessKeyRow = RowOf<typeof accessKeys>

export const frontEnds = table('front_ends', {
  id: key(text),
  site: text,
  name: text,
  label: text,
  origins: text,
  enter: text,
  created_at: text,
})
export type FrontEndRow = RowOf<typeof frontEnds>

export const previewCodes = table('preview_codes', {
  hash: key(text),
  site: text,
  front_end: text,
  account: text,
  expires_at: text,
  used_at: nullable(text),
})
export type PreviewCodeRow = RowOf<typeof previewCodes>

export const grants = table('grants', {
  id: key(text),
  site: text,
  front_end: text,
  account: text,
  created_at: text,
  expires_at: text,
  revoked_at: nullable(text),
})
export type GrantRow = RowOf<typeof grants>

export const idempotency = table('idempotency', {
  caller: key(text),
  key: key(text),
  request: text,
  status: integer,
  answer: text,
  etag: nullable(text),
  at: text,
})
export type IdempotencyRow = RowOf<typeof idempotency>
