/** Moves the focus to the next (or previous) region of the page: head, work, margins, strip. */
export function focusRegion(step: 1 | -1): void {
  const regions = [...document.querySelectorAll<HTMLElement>('[data-region]')].filter(
    (region) => region.offsetParent !== null,
  )
  if (regions.length === 0) return
  // A region may be inside another, as the outline is in the main one: the innermost counts.
  const here = regions.findLastIndex((region) => region.contains(document.activeElement))
  const next = regions[(here + step + regions.length) % regions.length]!
  const first = [
    ...next.querySelectorAll<HTMLElement>('a[href], button:not([disabled]), input, textarea, select, [tabindex="0"]'),
  ].find((element) => element.closest('[data-region]') === next && element.tabIndex >= 0)
  ;(first ?? next).focus()
}
