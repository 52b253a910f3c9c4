import { checkSettings, type SiteSettings } from '@wisteria/core'
import { computed, shallowRef } from 'vue'
import { keptDrafts } from '../kept/drafts'
import { session, type Site } from '../session'

/** A draft as the browser keeps it. */
interface KeptLocales {
  readonly at: string
  /** The version of the settings that it was begun on. */
  readonly version: string
  /** The settings of that version. */
  readonly before: SiteSettings
  readonly settings: SiteSettings
}

/** The settings of a site that are being changed. */
export function createLocalesDraft(before: SiteSettings, version: string, kept?: KeptLocales) {
  const base = kept?.before ?? before
  const now = shallowRef<SiteSettings>(kept?.settings ?? before)
  const isChanged = computed(() => JSON.stringify(now.value) !== JSON.stringify(base))
  const problems = computed(() => checkSettings(now.value))
  /** The problem of the locale in a row, or at a pointer. */
  const problemsAt = (pointer: string): string[] =>
    problems.value
      .filter((problem) => `${problem.pointer ?? ''}/`.startsWith(`${pointer}/`))
      .map((problem) => problem.message)

  function changeLocale(index: number, change: Partial<SiteSettings['locales'][number]>): void {
    const locales = now.value.locales.map((locale, at) => (at === index ? { ...locale, ...change } : locale))
    now.value = { ...now.value, locales }
  }
  /** Lists and menus show locales in this order. */
  function move(from: number, to: number): void {
    const locales = [...now.value.locales]
    if (to < 0 || to >= locales.length) return
    locales.splice(to, 0, ...locales.splice(from, 1))
    now.value = { ...now.value, locales }
  }

  return {
    now,
    isChanged,
    problems,
    problemsAt,
    changeLocale,
    move,
    /** The version of the settings that were read, for saving. */
    version: kept?.version ?? version,
    /** When it was stored, if it was restored. */
    recoveredAt: kept?.at,
    /** Whether somebody else has changed the locales since: it cannot be saved any more. */
    isOutdated: kept !== undefined && kept.version !== version,
    record: (): KeptLocales => ({
      at: new Date().toISOString(),
      version: kept?.version ?? version,
      before: base,
      settings: now.value,
    }),
  }
}

export type LocalesDraft = ReturnType<typeof createLocalesDraft>

const drafts = keptDrafts<KeptLocales, LocalesDraft>(
  'locales',
  (draft) => draft.now,
  ({ version, settings, before }) =>
    typeof version === 'string' && Array.isArray(settings?.locales) && Array.isArray(before?.locales),
)

/** The draft of a site: the newest settings, or the changed ones. @param account its owner. */
export async function openLocalesDraft(site: Site, account = session.value?.account.id ?? ''): Promise<LocalesDraft> {
  const opened = drafts.opened(site.name)
  if (opened?.isChanged.value) return opened
  const { settings, version } = await site.editor.locales()
  return drafts.open(site.name, account, (kept) => createLocalesDraft(settings, version, kept))
}

export const forgetLocalesDraft = drafts.forget
