/** A few words of the demo world: the simulated translator knows no others, and leaves those as they are. */
const lines: Readonly<Record<string, string>> = {
  nl: `a een|about over|activities activiteiten|adults volwassenen|after na|all alle|and en|at bij|bell bel|boat boot|boats boten|boatyard werf|book boek|bring breng|by door|café café|children kinderen|closed gesloten|coast kust|collection collectie|concert concert|dark donker|day dag|door deur|early vroeg|evening avond|every elke|exhibition tentoonstelling|exhibitions tentoonstellingen|first eerste|for voor|free gratis|from van|garden tuin|guide gids|guided begeleide|harbour haven|house huis|in in|is is|keeper wachter|lamp lamp|late laat|light licht|lighthouse vuurtoren|make maak|map kaart|members leden|morning ochtend|museum museum|museums musea|near bij|new nieuw|night nacht|no geen|not niet|of van|old oud|on op|open open|our ons|out uit|people mensen|people's van mensen|picture foto|please alstublieft|rain regen|room kamer|salt zout|sand zand|sea zee|ship schip|ships schepen|small klein|stairs trap|stories verhalen|story verhaal|talk lezing|the de|tickets kaartjes|tide getij|time tijd|to naar|today vandaag|tomorrow morgen|torch zaklamp|tour rondleiding|tower toren|visit bezoek|walk wandeling|water water|wave golf|waves golven|we we|what wat|when wanneer|where waar|wind wind|winter winter|with met|without zonder|wood hout|work werk|workshop workshop|year jaar|you je|your je`,
  ar: `a |activities أنشطة|adults الكبار|after بعد|all كل|and و|at عند|boat قارب|boats قوارب|book كتاب|bring أحضر|children الأطفال|closed مغلق|coast الساحل|collection المجموعة|concert حفلة|dark الظلام|day يوم|door الباب|early مبكرا|evening مساء|every كل|exhibition معرض|exhibitions معارض|first أول|for لـ|free مجانا|from من|garden حديقة|guide دليل|harbour الميناء|house بيت|in في|is هو|lamp مصباح|late متأخرا|light ضوء|lighthouse المنارة|map خريطة|morning صباح|museum متحف|museums متاحف|near قرب|new جديد|night ليل|no لا|not ليس|of من|old قديم|on على|open مفتوح|our لنا|people الناس|picture صورة|please من فضلك|rain مطر|room غرفة|salt ملح|sand رمل|sea البحر|ship سفينة|ships سفن|small صغير|stairs درج|stories قصص|story قصة|talk محاضرة|the |tickets تذاكر|tide المد|time وقت|to إلى|today اليوم|tomorrow غدا|torch مصباح يد|tour جولة|tower برج|visit زيارة|walk جولة|water ماء|wave موجة|waves أمواج|we نحن|what ما|when متى|where أين|wind ريح|winter شتاء|with مع|without بدون|wood خشب|work عمل|workshop ورشة|year سنة|you أنت|your لك`,
}

const dictionaries = new Map(
  Object.entries(lines).map(([language, line]) => [
    language,
    new Map(
      line.split('|').map((pair) => {
        const space = pair.indexOf(' ')
        return [pair.slice(0, space), pair.slice(space + 1)] as const
      }),
    ),
  ]),
)

/** A term of the site, with the translation to use. */
export interface Term {
  readonly term: string
  readonly use?: string
}

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')

/**
 * Translates word by word, the same each time: terms as the site wants them, words of the list, and others as they are. Codes and
 * everything between words stay.
 */
export function translateWords(text: string, to: string, terms: readonly Term[] = []): string {
  const words = dictionaries.get(to.split('-')[0]!) ?? new Map<string, string>()
  const used = terms.filter((term): term is Required<Term> => term.use !== undefined)
  const pattern = new RegExp(
    [String.raw`<\/?[A-Za-z0-9._-]{1,32}\/?>`, ...used.map(({ term }) => escaped(term)), String.raw`[\p{L}']+`].join(
      '|',
    ),
    'giu',
  )
  return text
    .replace(pattern, (found) => {
      if (found.startsWith('<')) return found
      const term = used.find((each) => each.term.toLowerCase() === found.toLowerCase())
      const word = term?.use ?? words.get(found.toLowerCase())
      if (word === undefined) return found
      return /^\p{Lu}/u.test(found) ? word.charAt(0).toUpperCase() + word.slice(1) : word
    })
    .replace(/ {2,}/g, ' ')
    .trim()
}
