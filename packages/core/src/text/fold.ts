const letters: Record<string, string> = {
  ß: 'ss', æ: 'ae', œ: 'oe', ø: 'o', đ: 'd', ð: 'd', þ: 'th', ł: 'l', ı: 'i',
  // Arabic: the forms of alef, the final ya and ta marbuta that writers use interchangeably
  آ: 'ا', أ: 'ا', إ: 'ا', ٱ: 'ا', ى: 'ي', ة: 'ه', ؤ: 'و', ئ: 'ي',
} // prettier-ignore

/** The ASCII form of other letters, as far as we know them. */
const folded = new Map<string, string>()

/**
 * The form in which text is compared and sorted: compatibility-decomposed (UAX 15), without marks and tatweel, in lower case, with
 * similar Arabic letters made equal. Idempotent.
 */
export function fold(text: string): string {
  const lower = text.toLowerCase()
  // Nothing in ASCII has marks or another form: most words of Latin scripts end here.
  if (!/\P{ASCII}/u.test(lower)) return lower
  return lower.normalize('NFC').replace(/\P{ASCII}/gu, (letter) => {
    const cached = folded.get(letter)
    if (cached !== undefined) return cached
    const base = foldLetter(letter)
    folded.set(letter, base)
    return base
  })
}

function foldLetter(letter: string): string {
  let out = ''
  for (const part of (letters[letter] ?? letter).normalize('NFKD').toLowerCase())
    if (!/\p{M}|\u0640/u.test(part)) out += letters[part] ?? part
  return out
}

/**
 * A slug from free text: Latin letters become ASCII, and letters of other scripts stay, since a mark there may be another letter.
 * Optional Arabic vowel signs and the tatweel are dropped. The words are joined by hyphens.
 */
export function slugFrom(text: string): string {
  return text
    .normalize('NFKC')
    .toLowerCase()
    .normalize('NFC')
    .replace(/\u0640|\u0670|[\u064B-\u065F]/gu, '')
    .replace(/\p{Script=Latin}\p{M}*/gu, fold)
    .normalize('NFC')
    .replace(/['’]/g, '')
    .replace(/[^\p{L}\p{N}\p{M}]+/gu, '-')
    .replace(/(^|-)\p{M}+/gu, '$1')
    .replace(/^-+|-+$/g, '')
    .slice(0, 96)
    .replace(/[\uD800-\uDBFF]$/, '')
    .replace(/-+$/, '')
    .replace(/-{2,}/g, '-')
}
