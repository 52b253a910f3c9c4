/* Disabled accounts, and one-time links to set a new password. */
export const name = '0009-accounts'

export const statements: readonly string[] = [
  `alter table accounts add column disabled_at text`,
  `create table password_links (
     hash text primary key, account text not null references accounts (id) on delete cascade, created_by text not null,
     created_at text not null, expires_at text not null
   ) strict`,
  `create index password_links_by_account on password_links (account)`,
  `create index sessions_by_account on sessions (account)`,
  `create index grants_by_account on grants (account)`,
  // An earlier form of 0004 did without it.
  `create index if not exists entries_set_aside on entries (id) where archived_at is not null`,
]
