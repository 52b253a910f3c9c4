/**
 * A word that fits a simple regular expression: letters, classes, groups with alternatives, repetitions. For other expressions it
 * may not fit; callers must test it.
 */
export function wordFitting(expression: string, seed: number): string {
  let at = 0
  let state = seed
  const next = (size: number): number => (state = (state * 48271 + 11) % 2147483647) % size
  const classes: Record<string, string> = { d: '0123456789', w: 'abcdefgh', s: ' ', D: 'x', W: '-', S: 'x' }

  const alternatives = (): string => {
    const all = [sequence()]
    while (expression[at] === '|') {
      at++
      all.push(sequence())
    }
    return all[next(all.length)]!
  }
  const sequence = (): string => {
    let word = ''
    while (at < expression.length && expression[at] !== '|' && expression[at] !== ')') word += repeated()
    return word
  }
  const repeated = (): string => {
    const from = at
    const fitted = atom()
    const to = at
    const match = /^(?:\{(\d+)(,(\d*))?\}|([*+?]))\??/.exec(expression.slice(at))
    if (!match) return fitted
    at += match[0].length
    const times =
      match[1] === undefined
        ? match[4] === '+'
          ? 2
          : 1
        : Math.max(
            Number(match[1]),
            match[2] === undefined ? 0 : Math.min(Number(match[1]) + 1, Number(match[3] || 50)),
          )
    let word = ''
    for (let time = 0; time < times; time++) {
      const after = at
      at = from
      word += atom()
      at = after
    }
    return to > from ? word : fitted
  }
  const atom = (): string => {
    const letter = expression[at++]!
    if (letter === '(') {
      if (expression.startsWith('?:', at)) at += 2
      const inner = alternatives()
      at++
      return inner
    }
    if (letter === '[') return fromClass()
    if (letter === '\\') {
      const kind = expression[at++] ?? ''
      return kind in classes ? classes[kind]![next(classes[kind]!.length)]! : kind
    }
    if (letter === '.') return 'x'
    return letter === '^' || letter === '$' ? '' : letter
  }
  const fromClass = (): string => {
    const isOther = expression[at] === '^'
    if (isOther) at++
    let letters = ''
    while (at < expression.length && expression[at] !== ']') {
      const letter = expression[at++]!
      if (letter === '\\') {
        const kind = expression[at++] ?? ''
        letters += classes[kind] ?? kind
      } else if (expression[at] === '-' && expression[at + 1] !== ']') {
        const end = expression.codePointAt(at + 1)!
        at += 2
        for (let point = letter.codePointAt(0)!; point <= end && letters.length < 200; point++)
          letters += String.fromCodePoint(point)
      } else letters += letter
    }
    at++
    if (isOther) return [...'xyzabc0-'].find((letter) => !letters.includes(letter)) ?? ''
    return letters === '' ? '' : letters[next(letters.length)]!
  }
  return alternatives()
}
