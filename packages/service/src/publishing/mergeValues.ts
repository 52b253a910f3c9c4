import {
  localeTags,
  mergePatch,
  printValues,
  readValues,
  sameContent,
  titleOf,
  withIdsOf,
  type ContentType,
  type NamedValues,
  type Problem,
} from '@wisteria/core'
import type { Site, WorkingCopy } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'

/** The values of an entry once a patch has been merged into them. */
export interface MergedValues {
  readonly values: NamedValues
  readonly title: string
  /** Whether nothing differs from the values before. */
  readonly isSame: boolean
  /** With problems the values must not be saved. */
  readonly problems: readonly Problem[]
}

/** Merges a patch into an entry, or into a new one. Nothing is saved. */
export function mergeValues(
  kernel: Kernel,
  site: Site,
  type: ContentType,
  copy: Pick<WorkingCopy, 'document'> | undefined,
  patch: NamedValues,
): MergedValues {
  const { model, settings } = site
  const tags = localeTags(settings)
  const before = copy ? printValues(model, type, copy.document) : {}
  const { document, problems } = readValues(model, type, mergePatch(before, patch), tags, kernel.environment.random)
  const title = titleOf(type, document, [settings.defaultLocale, ...tags])
  if (problems.length > 0) return { values: {}, title: '', isSame: false, problems }
  const values = withIdsOf(type, before, printValues(model, type, document))
  return { values, title, isSame: copy !== undefined && sameContent(before, values), problems }
}
