export const common = {
  savedStop: 'Saved.',
  usedBy: 'Used by',
  noName: 'No name yet',
  deletePermanently: 'Delete permanently',
  cancel: 'Cancel',
  deleteMore: 'Delete…',
  restore: 'Restore',
  entriesDone: '{done} of {total} entries',
  tryAgain: 'Try again',
  request: 'Request {id}',
  remove: 'Remove',
  yes: 'Yes',
  no: 'No',
  open: 'Open',
  sizeOf: '{size} of {max}',
  duplicate: 'Duplicate',
  add: 'Add',
  save: 'Save',
  discard: 'Discard',
  undo: 'Undo',
  more: 'More…',
  andMore: 'and {count} more',
  workingOut: 'Working out what changes…',
  notNow: 'Cancel',
  close: 'Close',
  discardChanges: 'Discard changes',
  seeConsequences: 'See consequences…',
  copy: 'Copy',
  actions: 'Actions',
  showMore: 'Show more',
  changesDiscarded: 'Your changes are discarded.',
} as const

export const states = {
  new: 'New',
  public: 'Public',
  edited: 'Edited',
  withdrawn: 'Withdrawn',
  archived: 'Archived',
  fallback: 'From another locale',
  scheduled: 'Scheduled',
} as const

export const times = {
  /** How dates and times are written: a BCP 47 tag. */
  language: 'en-GB',
  today: 'today {time}',
} as const

export const values = {
  entryGone: 'Broken reference to an entry',
  assetGone: 'Broken reference to an asset',
  group: 'A group',
  title: 'Title: {title}',
  description: 'Description: {description}',
  image: 'Image: {image}',
  hidden: 'Hidden from search engines',
  limited: '{first} of {type}',
  where: 'where {where}',
  sorted: 'sorted by {field}',
  sortedFalling: 'sorted by {field}, descending',
  assetGoneInside: 'a broken reference to an asset',
} as const
