/** The site's own texts, beside its content. */
export interface Words {
  readonly home: string
  readonly whatsOn: string
  readonly museums: string
  readonly onShow: string
  readonly until: string
  readonly from: string
  readonly permanent: string
  readonly free: string
  readonly minutes: string
  readonly forFamilies: string
  readonly openingHours: string
  readonly stepFree: string
  readonly notStepFree: string
  readonly with: string
  readonly collection: string
  readonly onLoan: string
  readonly below: string
  readonly nothingHere: string
  readonly nothingHereLong: string
  readonly languages: string
  readonly invented: string
  readonly formats: Readonly<Record<string, string>>
}

const en: Words = {
  home: 'Marram Coast Museums', whatsOn: 'Coming up', museums: 'The three museums', onShow: 'On show', until: 'until', from: 'from',
  permanent: 'always on show', free: 'free', minutes: 'minutes', forFamilies: 'for families', openingHours: 'Opening hours', stepFree: 'Step-free',
  notStepFree: 'Has steps', with: 'With', collection: 'From the collection', onLoan: 'on loan to', below: 'Read on', nothingHere: 'Nothing here but wind',
  nothingHereLong: 'There is no page at this address. It may have been withdrawn, or it was never there.', languages: 'Languages',
  invented: 'Everything on this coast is made up.', formats: { talk: 'Talk', walk: 'Walk', concert: 'Concert', workshop: 'Workshop' },
} // prettier-ignore

const nl: Words = {
  home: 'Musea van de Marramkust', whatsOn: 'Binnenkort', museums: 'De drie musea', onShow: 'Te zien', until: 'tot en met', from: 'vanaf',
  permanent: 'altijd te zien', free: 'gratis', minutes: 'minuten', forFamilies: 'voor gezinnen', openingHours: 'Openingstijden', stepFree: 'Drempelvrij',
  notStepFree: 'Met treden', with: 'Met', collection: 'Uit de collectie', onLoan: 'uitgeleend aan', below: 'Lees verder', nothingHere: 'Hier is alleen wind',
  nothingHereLong: 'Op dit adres staat geen pagina. Misschien is ze weggehaald, of ze is er nooit geweest.', languages: 'Talen',
  invented: 'Alles aan deze kust is verzonnen.', formats: { talk: 'Lezing', walk: 'Wandeling', concert: 'Concert', workshop: 'Workshop' },
} // prettier-ignore

const ar: Words = {
  home: 'متاحف ساحل مارام', whatsOn: 'قريبًا', museums: 'المتاحف الثلاثة', onShow: 'المعروض الآن', until: 'حتى', from: 'من',
  permanent: 'معروض دائمًا', free: 'مجانًا', minutes: 'دقيقة', forFamilies: 'للعائلات', openingHours: 'ساعات العمل', stepFree: 'بلا درجات',
  notStepFree: 'فيه درجات', with: 'مع', collection: 'من المجموعة', onLoan: 'مُعار إلى', below: 'اقرأ المزيد', nothingHere: 'لا شيء هنا سوى الريح',
  nothingHereLong: 'لا توجد صفحة في هذا العنوان. ربما أزيلت، أو لم تكن يومًا.', languages: 'اللغات',
  invented: 'كل ما على هذا الساحل من نسج الخيال.', formats: { talk: 'محاضرة', walk: 'نزهة', concert: 'حفلة', workshop: 'ورشة' },
} // prettier-ignore

const words: Readonly<Record<string, Words>> = { en, nl, 'nl-BE': nl, ar }

export const wordsOf = (locale: string): Words => words[locale] ?? en

/** The home page of each locale, and with it the locale that an address is in. */
export const homes: Readonly<Record<string, string>> = { en: '/', nl: '/nl', 'nl-BE': '/nl-be', ar: '/ar' }

export const localeNames: Readonly<Record<string, string>> = {
  en: 'English',
  nl: 'Nederlands',
  'nl-BE': 'Nederlands (België)',
  ar: 'العربية',
}

export function localeOfPath(path: string): string {
  const match = Object.entries(homes).find(([, home]) => home !== '/' && (path === home || path.startsWith(home + '/')))
  return match?.[0] ?? 'en'
}
