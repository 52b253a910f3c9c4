/** What is wrong with values, by the codes of problems; the service says it in English. */
export const problems = {
  tooLong: '{field} heeft {size} tekens, hoogstens {max} passen.',
  tooShort: '{field} heeft {size} tekens, minstens {min} zijn nodig.',
} as const
