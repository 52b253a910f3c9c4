import type { Field, RichTextForm } from '@wisteria/core'
import type { ReadEntry } from '../readEntry.js'
import type { Reading } from './reading.js'
import type { Connection } from './resolving.js'

/** How a plan reads a field of the schema; a field without this is not covered. */
export type Covered =
  /** A fact of the entry: read without its values. */
  | { readonly is: 'head'; readonly read: (entry: ReadEntry) => unknown }
  /** A content field; `root` is the internal id of its owner, `name` the name in the query. */
  | { readonly is: 'content'; readonly field: Field; readonly root: string; readonly name: string }
  /** The id of a block or of an element of a group: the bare one, or the one for clients. */
  | { readonly is: 'item'; readonly opaque: boolean }
  /** A member of an object that is there as it is printed. */
  | { readonly is: 'member'; readonly name: string }
  | { readonly is: 'text'; readonly form: RichTextForm }
  /** At the root: how its entries are found. */
  | { readonly is: 'list'; readonly find: (reading: Reading, args: never) => Promise<Connection> }
  | { readonly is: 'entry'; readonly find: (reading: Reading, args: never) => Promise<ReadEntry | null> }
  | { readonly is: 'nodes' | 'edges' | 'pageInfo' }

declare module 'graphql' {
  interface GraphQLFieldExtensions<_TSource, _TContext, _TArgs> {
    covered?: Covered
  }
}
