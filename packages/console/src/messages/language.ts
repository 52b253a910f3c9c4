import { createI18n } from 'vue-i18n'
import { en } from './en'

/** Other languages are added by `setLocaleMessage`; what one lacks is said in English. */
export const i18n = createI18n<false>({ legacy: false, locale: 'en', fallbackLocale: 'en' })
i18n.global.setLocaleMessage('en', en)
