import { archiveParts, publicParts, type PartName } from '@wisteria/store'
import { z } from 'zod'

/** The number of the form that this version writes and reads. */
export const archiveVersion = 1

export const archiveContents = ['everything', 'public'] as const
export type ArchiveContent = (typeof archiveContents)[number]

/** The files of lines in an archive. */
export const partsOf: Readonly<Record<ArchiveContent, readonly PartName[]>> = {
  everything: Object.keys(archiveParts) as PartName[],
  public: publicParts,
}

export const fileOf = (part: PartName | 'people'): string => `${part}.jsonl`
export const headFile = 'archive.json'
export const filesFolder = 'files/'

/** What `archive.json` says. */
export const archiveHead = z.object({
  format: z.literal('wisteria-archive'),
  version: z.literal(archiveVersion, `must be ${archiveVersion}: another version of the service reads this archive`),
  content: z.enum(archiveContents),
  madeAt: z.string(),
  madeBy: z.string(),
  site: z.object({ name: z.string(), label: z.string() }),
  modelVersion: z.int().min(1),
  settingsVersion: z.int().min(1),
  sequence: z.int().min(0),
  /** How many lines each part has. */
  counts: z.partialRecord(z.string(), z.int().min(0)),
  files: z.int().min(0),
  /** The digests of files that the service had lost. */
  missingFiles: z.array(z.string()),
})
export type ArchiveHead = z.infer<typeof archiveHead>

/** Somebody who did something, in `people.jsonl`. */
export const archivePerson = z.strictObject({
  actor: z.string(),
  name: z.string().max(200),
  /** Of an account. */
  email: z.string().max(320).optional(),
})
export type ArchivePerson = z.infer<typeof archivePerson>
