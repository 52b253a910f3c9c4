interface Placed {
  readonly id: string
  readonly parent: string | undefined
}

/** Entries so that each follows its parent, where that is among them; otherwise in their order. A circle is walked once. */
export const parentsFirst = <Entry extends Placed>(entries: readonly Entry[]): Entry[] => byDepth(entries, 1)

/** Entries so that each follows what is below it; otherwise in their order. */
export const childrenFirst = <Entry extends Placed>(entries: readonly Entry[]): Entry[] => byDepth(entries, -1)

function byDepth<Entry extends Placed>(entries: readonly Entry[], direction: 1 | -1): Entry[] {
  const parents = new Map(entries.map(({ id, parent }) => [id, parent]))
  const depthOf = (id: string): number => {
    let depth = 0
    for (let at = parents.get(id); at !== undefined && parents.has(at) && depth < entries.length; at = parents.get(at))
      depth++
    return depth
  }
  return entries
    .map((entry, index) => ({ entry, index, depth: depthOf(entry.id) }))
    .sort((a, b) => (a.depth - b.depth) * direction || a.index - b.index)
    .map(({ entry }) => entry)
}
