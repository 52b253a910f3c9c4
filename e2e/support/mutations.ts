import fc from 'fast-check'

const deep = (depth: number): unknown => {
  let value: unknown = 'x'
  for (let level = 0; level < depth; level++) value = level % 2 === 0 ? [value] : { block: value }
  return value
}

/** Malicious values in the place of a value. */
const hostile: fc.Arbitrary<unknown> = fc.oneof(
  fc.constantFrom<unknown>(
    null, '', ' ', 0, -1, 1e308, 0.1, true, [], {}, [null], [[]], '\u0000', '\ud800', '\u202e', '../../etc', '%00', '__proto__', 'constructor', "' or 1=1 --", '2030-13-45', '2030-02-30T25:61',
    'x'.repeat(70_000), Array.from({ length: 3000 }, () => 'x'), Object.fromEntries(Array.from({ length: 500 }, (_, index) => [`n${index}`, index])), { toString: 1 }, { block: { toString: 1 } }, deep(400),
    '<svg onload=alert(1)>', 'https://127.0.0.1/', 'http://[::1]:1/', 'javascript:alert(1)', 'now', 'title = "', '((((', 'en', '*', '(a+)+b',
  ), // prettier-ignore
  fc.jsonValue({ maxDepth: 3 }),
)

const placesOf = (value: unknown, at: readonly (string | number)[] = []): (readonly (string | number)[])[] =>
  typeof value === 'object' && value !== null
    ? [
        at,
        ...Object.entries(value).flatMap(([key, member]) =>
          placesOf(member, [...at, Array.isArray(value) ? Number(key) : key]),
        ),
      ]
    : [at]

function changed(value: unknown, at: readonly (string | number)[], to: unknown): unknown {
  const [first, ...rest] = at
  if (first === undefined || typeof value !== 'object' || value === null) return to
  if (Array.isArray(value))
    return value.map((element: unknown, index) => (index === first ? changed(element, rest, to) : element))
  return { ...value, [first]: changed((value as Record<string, unknown>)[first], rest, to) }
}

/** A valid body with one or two of its places replaced, removed or added. */
export const mutated = (body: unknown): fc.Arbitrary<unknown> => {
  const change = fc.record({
    place: fc.nat(),
    how: fc.constantFrom('replace', 'replace', 'remove', 'add'),
    to: hostile,
    name: fc.constantFrom('id', 'nonsense', '__proto__', 'constructor', 'values', 'nl'),
  })
  return fc.array(change, { minLength: 1, maxLength: 2 }).map((changes) =>
    changes.reduce<unknown>((now, { place, how, to, name }) => {
      const places = placesOf(now)
      const at = places[place % places.length]!
      if (how === 'remove') return at.length === 0 ? undefined : changed(now, at, undefined)
      return how === 'add' ? changed(now, [...at.slice(0, -1), name], to) : changed(now, at, to)
    }, body),
  )
}
