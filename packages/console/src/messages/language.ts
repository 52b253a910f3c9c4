import type { Language as ElementLanguage } from 'element-plus/es/locale'
import elementEnglish from 'element-plus/es/locale/lang/en'
import { shallowRef } from 'vue'
import { createI18n } from 'vue-i18n'
import { en } from './en'

/** Other languages are added by `setLocaleMessage`; a missing text is shown in English. */
export const i18n = createI18n<false>({ legacy: false, locale: 'en', fallbackLocale: 'en' })
i18n.global.setLocaleMessage('en', en)

/** The languages of the console, each by its own name. */
export const languages = { en: 'English', nl: 'Nederlands', ar: 'العربية' } as const
export type Language = keyof typeof languages

/** The texts of lists, calendars and pagers of the component library. Its weeks begin as in the language. */
export const elementLanguage = shallowRef<ElementLanguage>({ ...elementEnglish, name: 'en-gb' })

interface Loaded {
  readonly messages: object
  readonly element: ElementLanguage
}

/** Languages are loaded when they are chosen: English always, for missing texts. */
const load: Readonly<Record<Language, () => Promise<Loaded>>> = {
  en: async () => {
    await import('dayjs/locale/en-gb')
    return { messages: en, element: { ...elementEnglish, name: 'en-gb' } }
  },
  nl: async () => {
    const [{ nl }, { default: element }] = await Promise.all([
      import('./nl'),
      import('element-plus/es/locale/lang/nl'),
      import('dayjs/locale/nl'),
    ])
    return { messages: nl, element }
  },
  ar: async () => {
    const [{ ar }, { default: element }] = await Promise.all([
      import('./ar'),
      import('element-plus/es/locale/lang/ar'),
      import('dayjs/locale/ar'),
    ])
    return { messages: ar, element }
  },
}

const isRightToLeft = (language: string): boolean => language === 'ar'

/** Whether a text is missing in a language from right to left, and so is shown in English, from left to right. */
export const isForeign = (key: string): boolean =>
  isRightToLeft(i18n.global.locale.value) && !i18n.global.te(key, i18n.global.locale.value)

const isLanguage = (tag: string): tag is Language => tag in languages

/** The first of some language tags that the console has: `nl` for `nl-BE`. English if it has none. */
export function languageFor(tags: readonly string[]): Language {
  for (const tag of tags) {
    const [language] = tag.toLowerCase().split('-')
    if (language !== undefined && isLanguage(language)) return language
  }
  return 'en'
}

/**
 * Sets the language of the console, and its direction.
 * @param chosen by the user; the browser's languages when left out.
 */
export async function speak(chosen?: string | null): Promise<void> {
  const language = languageFor(chosen ? [chosen] : navigator.languages)
  const { messages, element } = await load[language]()
  i18n.global.setLocaleMessage(language, messages)
  i18n.global.locale.value = language
  elementLanguage.value = element
  document.documentElement.lang = language
  document.documentElement.dir = isRightToLeft(language) ? 'rtl' : 'ltr'
}
