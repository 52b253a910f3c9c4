/** Problems of values, by code; the service has them in English. */
export const problems = {
  tooLong: '{field} heeft {size} tekens, hoogstens {max} passen.',
  tooShort: '{field} heeft {size} tekens, minstens {min} zijn nodig.',
} as const
