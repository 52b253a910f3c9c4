/** Entries so that each follows its parent, where that is among them; otherwise in their order. A circle is walked once. */
export function parentsFirst<Entry extends { readonly id: string; readonly parent: string | undefined }>(
  entries: readonly Entry[],
): Entry[] {
  const parents = new Map(entries.map(({ id, parent }) => [id, parent]))
  const depthOf = (id: string): number => {
    let depth = 0
    for (let at = parents.get(id); at !== undefined && parents.has(at) && depth < entries.length; at = parents.get(at))
      depth++
    return depth
  }
  return entries
    .map((entry, index) => ({ entry, index, depth: depthOf(entry.id) }))
    .sort((a, b) => a.depth - b.depth || a.index - b.index)
    .map(({ entry }) => entry)
}
