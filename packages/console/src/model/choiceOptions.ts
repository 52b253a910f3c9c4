/** An option of a choice in the form: a label by locale, or one under `''` for all of them. */
export interface OptionDraft {
  readonly value: string
  readonly labels: Readonly<Record<string, string>>
  readonly was: readonly string[]
}

interface Written {
  readonly value: string
  readonly label?: string | Readonly<Record<string, string>>
  readonly was?: string | readonly string[]
}

const labelFromValue = (value: string): string => value.charAt(0).toUpperCase() + value.slice(1)

/** The options as a model file has them. */
export const readOptions = (options: readonly unknown[]): OptionDraft[] =>
  (options as readonly (string | Written)[]).map((option) => {
    if (typeof option === 'string') return { value: option, labels: {}, was: [] }
    const { value, label, was } = option
    return {
      value,
      labels: label === undefined ? {} : typeof label === 'string' ? { '': label } : label,
      was: was === undefined ? [] : [was].flat(),
    }
  })

/** The shortest form of the options in a model file: an option with nothing but its value is that value. */
export const writeOptions = (options: readonly OptionDraft[]): unknown[] =>
  options.map(({ value, labels, was }) => {
    const written = Object.entries(labels).filter(([, text]) => text.trim() !== '')
    const plain = written.length === 1 && written[0]![0] === '' ? written[0]![1] : undefined
    const label =
      written.length === 0 || plain === labelFromValue(value) ? undefined : (plain ?? Object.fromEntries(written))
    if (label === undefined && was.length === 0) return value
    return {
      value,
      ...(label === undefined ? {} : { label }),
      ...(was.length === 0 ? {} : { was: was.length === 1 ? was[0] : was }),
    }
  })

/** Whether any option has labels of its own by locale. */
export const hasLocaleLabels = (options: readonly OptionDraft[]): boolean =>
  options.some(({ labels }) => Object.keys(labels).some((locale) => locale !== ''))

/** The shown label of an option in a locale: that for all locales, or one made from its value. */
export const shownLabel = ({ value, labels }: OptionDraft, locale: string): string =>
  labels[locale] ?? labels[''] ?? (locale === '' ? labelFromValue(value) : '')

/** Options with labels by locale, or with one for all: existing labels become those of the default locale. */
export const withLocaleLabels = (
  options: readonly OptionDraft[],
  perLocale: boolean,
  defaultLocale: string,
): OptionDraft[] =>
  options.map((option) => {
    const { value, labels, was } = option
    if (perLocale) return { value, labels: { [defaultLocale]: labels[''] ?? labelFromValue(value) }, was }
    const one = labels[defaultLocale] ?? Object.values(labels)[0]
    const labelled: Record<string, string> = one === undefined ? {} : { '': one }
    return { value, labels: labelled, was }
  })

/** An option with another value. An adopted one keeps its old value as `was`. */
export function withValue(option: OptionDraft, value: string, adopted: readonly string[]): OptionDraft {
  const was = option.was.filter((earlier) => earlier !== value)
  const isAdopted = adopted.includes(option.value) && !was.includes(option.value) && option.value !== value
  return { ...option, value, was: isAdopted ? [option.value, ...was] : was }
}
