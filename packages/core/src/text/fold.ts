const letters: Record<string, string> = {
  ß: 'ss', æ: 'ae', œ: 'oe', ø: 'o', đ: 'd', ð: 'd', þ: 'th', ł: 'l', ı: 'i',
  // Arabic: the forms of alef, the final ya and ta marbuta that writers use interchangeably
  آ: 'ا', أ: 'ا', إ: 'ا', ٱ: 'ا', ى: 'ي', ة: 'ه', ؤ: 'و', ئ: 'ي',
} // prettier-ignore

/** What letters outside ASCII become, as far as they were met. */
const folded = new Map<string, string>()

/**
 * The form in which text is compared and sorted: compatibility-decomposed (UAX 15), without marks and
 * tatweel, in lower case, with look-alike Arabic letters made one. Idempotent.
 */
export function fold(text: string): string {
  return text
    .toLowerCase()
    .normalize('NFC')
    .replace(/\P{ASCII}/gu, (letter) => {
      const known = folded.get(letter)
      if (known !== undefined) return known
      const made = foldLetter(letter)
      folded.set(letter, made)
      return made
    })
}

function foldLetter(letter: string): string {
  let out = ''
  for (const part of (letters[letter] ?? letter).normalize('NFKD').toLowerCase())
    if (!/\p{M}|\u0640/u.test(part)) out += letters[part] ?? part
  return out
}

/** A slug from free text: folded to ASCII letters and digits where possible, other scripts kept, joined by hyphens. */
export function slugFrom(text: string): string {
  return fold(text)
    .replace(/['’]/g, '')
    .replace(/[^\p{L}\p{N}]+/gu, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 96)
    .replace(/-+$/, '')
}
