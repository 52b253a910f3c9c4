/** A whole site as a file, and back. */
export const archive = {
  title: 'Archive',
  explained:
    'The whole site as one file: to keep it, to move it to another service, or to hand it over. It is a ZIP file with JSON Lines and files, which other programs read too.',
  export: 'Export this site',
  contents: 'Content',
  content: {
    everything: 'Everything',
    public: 'Only what is public',
  },
  contentExplained: {
    everything:
      'Model and settings with their histories, entries with all revisions and drafts, files, saved views, the glossary, front ends, automations and webhooks.',
    public:
      'The model and the settings, and what readers of the published edition can see: no drafts, no histories, no names of people.',
  },
  without: 'Secrets, access keys, members, schedules and the event log are never in it.',
  download: 'Download the archive',
  import: 'Import an archive',
  notEmpty:
    'An archive is imported into a site without a model, entries and files; {label} has some. Create a site for it.',
  importExplained:
    'This site gets the content, the model and the settings of the archive, and keeps its name, members and keys. Automations and webhooks are switched off at first. Where the import fails, nothing of it stays.',
  choose: 'Choose an archive…',
  newIds: 'Give entries and files new IDs, for a copy of a site of this service',
  site: 'Site',
  madeAt: 'Made',
  numbers: 'Size',
  revisions: '{n} revision | {n} revisions',
  files: '{n} file | {n} files',
  importIt: 'Import the archive',
} as const
