import type { BulkAction } from '@wisteria/client'
import type { ContentType, Field } from '@wisteria/core'

/** What is done to many entries, in words. */
export const deedWords: Readonly<
  Record<
    BulkAction,
    { readonly verb: string; readonly participle: string; readonly done: string; readonly note: string }
  >
> = {
  publish: {
    verb: 'Publish',
    participle: 'published',
    done: 'Published',
    note: 'Each is published by itself: one that cannot be does not hold up the others.',
  },
  unpublish: {
    verb: 'Take down',
    participle: 'taken down',
    done: 'Taken down',
    note: 'Their pages answer “gone” afterwards.',
  },
  archive: {
    verb: 'Archive',
    participle: 'archived',
    done: 'Archived',
    note: 'What is public of them is taken down; they leave the lists.',
  },
  unarchive: {
    verb: 'Take out of the archive',
    participle: 'taken out',
    done: 'Taken out',
    note: 'Nothing becomes public by it.',
  },
  delete: {
    verb: 'Delete',
    participle: 'put into the bin',
    done: 'In the bin',
    note: 'They lie in the bin for 30 days.',
  },
  duplicate: {
    verb: 'Duplicate',
    participle: 'duplicated',
    done: 'Duplicated',
    note: 'Nothing of the copies is public.',
  },
  edit: {
    verb: 'Set a field of',
    participle: 'changed',
    done: 'Changed',
    note: 'Working copies change; nothing becomes public.',
  },
}

const kinds = new Set([
  'text', 'longText', 'number', 'boolean', 'date', 'dateTime', 'timeSpan', 'choice', 'colour', 'email', 'webAddress',
]) // prettier-ignore

/** The fields that can be given one value in many entries at once. */
export const settable = (type: ContentType): Field[] =>
  type.fields.filter((field) => kinds.has(field.kind) && (!field.many || field.kind === 'choice'))
