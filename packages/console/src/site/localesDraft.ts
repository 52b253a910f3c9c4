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

/** Locales and what else belongs to a site, as somebody is changing them. */
export function createLocalesDraft(before: SiteSettings, version: string, kept?: KeptLocales) {
  const base = kept?.before ?? before
  const now = shallowRef<SiteSettings>(kept?.settings ?? before)
  const isChanged = computed(() => JSON.stringify(now.value) !== JSON.stringify(base))
  const problems = computed(() => checkSettings(now.value))
  /** What is wrong with the locale in that row, or with what is at that pointer. */
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
    /** What saving goes by: the settings that were read. */
    version: kept?.version ?? version,
    /** Since when it had been kept, where it was taken up again. */
    recoveredAt: kept?.at,
    /** Whether somebody else has changed the locales since it was begun: it cannot be saved any more. */
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

/** The draft of a site: the newest settings, unless somebody is changing them here. @param account whose it is. */
export async function openLocalesDraft(site: Site, account = session.value?.account.id ?? ''): Promise<LocalesDraft> {
  const opened = drafts.opened(site.name)
  if (opened?.isChanged.value) return opened
  const { settings, version } = await site.editor.locales()
  return drafts.open(site.name, account, (kept) => createLocalesDraft(settings, version, kept))
}

export const forgetLocalesDraft = drafts.forget
