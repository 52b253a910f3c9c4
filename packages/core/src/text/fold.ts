const letters: Record<string, string> = {
  ß: 'ss', æ: 'ae', œ: 'oe', ø: 'o', đ: 'd', ð: 'd', þ: 'th', ł: 'l', ı: 'i',
  // Arabic: the forms of alef, the final ya and ta marbuta that writers use interchangeably
  آ: 'ا', أ: 'ا', إ: 'ا', ٱ: 'ا', ى: 'ي', ة: 'ه', ؤ: 'و', ئ: 'ي',
} // prettier-ignore

/**
 * The form in which text is compared and sorted: compatibility-decomposed (UAX 15), without marks and
 * tatweel, in lower case, with look-alike Arabic letters made one. Idempotent.
 */
export function fold(text: string): string {
  let out = ''
  for (const letter of text.toLowerCase().normalize('NFC')) {
    const plain = letters[letter] ?? letter
    for (const part of plain.normalize('NFKD').toLowerCase()) {
      if (/\p{M}|\u0640/u.test(part)) continue
      out += letters[part] ?? part
    }
  }
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
