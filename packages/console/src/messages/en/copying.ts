/** Copying from another site. */
export const copying = {
  title: 'Copy from another site',
  explained:
    'Takes over the model or the content of another site of which you are a member. The copies belong to this site: later changes there are not taken over.',
  noOther: 'You are a member of no other site.',
  from: 'Copy from',
  choose: 'Choose a site',
  model: 'Model',
  modelExplained:
    'Shows what would change here, before anything does. Paths in locales that this site does not have are left out.',
  compare: 'Compare the models…',
  whatTakingChanges: 'What taking the model of {label} changes',
  content: 'Content',
  types: 'Types',
  references: 'Also the entries that these refer to',
  publish: 'Publish the copies where their originals are public',
  work: 'Show plan',
  plan: 'Plan',
  entries: 'Entries',
  refused: 'Cannot be copied',
  files: '1 file, {size} | {n} files, {size}',
  localesLeftOut: 'Texts in {locales} are left out: this site has no such locale.',
  referencesLeftOut:
    '1 reference to an entry that is not copied is left out. | {n} references to entries that are not copied are left out.',
  copy: 'Copy 1 entry | Copy {n} entries',
  done: 'Copied: {message}',
} as const
