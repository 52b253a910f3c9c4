export const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]

export const percentile = (values, share) =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * share))]

export const ratio = (value) => value.toFixed(2).padStart(6)
