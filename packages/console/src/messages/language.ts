import type { Language as ElementLanguage } from 'element-plus/es/locale'
import elementEnglish from 'element-plus/es/locale/lang/en'
import { shallowRef } from 'vue'
import { createI18n } from 'vue-i18n'
import { en } from './en'

/** Other languages are added by `setLocaleMessage`; what one lacks is said in English. */
export const i18n = createI18n<false>({ legacy: false, locale: 'en', fallbackLocale: 'en' })
i18n.global.setLocaleMessage('en', en)

/** The languages of the console, each by its own name. */
export const languages = { en: 'English', nl: 'Nederlands', ar: 'العربية' } as const
export type Language = keyof typeof languages

/** What lists, calendars and pagers of the component library say. Its weeks begin as they do in the language. */
export const elementLanguage = shallowRef<ElementLanguage>({ ...elementEnglish, name: 'en-gb' })

interface Loaded {
  readonly messages: object
  readonly element: ElementLanguage
}

/** Languages are loaded when they are spoken: English always is, for what the others lack. */
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

const isLanguage = (tag: string): tag is Language => tag in languages

/** The first of some language tags that the console speaks: `nl-BE` is spoken as `nl`. English where it speaks none. */
export function languageFor(tags: readonly string[]): Language {
  for (const tag of tags) {
    const [language] = tag.toLowerCase().split('-')
    if (language !== undefined && isLanguage(language)) return language
  }
  return 'en'
}

/**
 * Makes the console speak a language, in its direction.
 * @param chosen by whoever is signed in; the browser's languages where there is none.
 */
export async function speak(chosen?: string | null): Promise<void> {
  const language = languageFor(chosen ? [chosen] : navigator.languages)
  const { messages, element } = await load[language]()
  i18n.global.setLocaleMessage(language, messages)
  i18n.global.locale.value = language
  elementLanguage.value = element
  document.documentElement.lang = language
  document.documentElement.dir = language === 'ar' ? 'rtl' : 'ltr'
}
