import type { TreeNode } from '@wisteria/client'

/** A page in the tree, with its children. */
export interface Branch {
  readonly node: TreeNode
  readonly below: readonly Branch[]
  readonly depth: number
}

/** Nodes as a tree, in their order; a node without its parent is at the root. */
export function forestOf(nodes: readonly TreeNode[]): Branch[] {
  const ids = new Set(nodes.map((node) => node.id))
  const byParent = new Map<string | null, TreeNode[]>()
  for (const node of nodes) {
    const parent = node.parent !== null && ids.has(node.parent) && node.parent !== node.id ? node.parent : null
    byParent.set(parent, [...(byParent.get(parent) ?? []), node])
  }
  const seen = new Set<string>()
  const below = (parent: string | null, depth: number): Branch[] =>
    (byParent.get(parent) ?? []).flatMap((node) => {
      if (seen.has(node.id)) return []
      seen.add(node.id)
      return [{ node, below: below(node.id, depth + 1), depth }]
    })
  return below(null, 0)
}

/** The lines of a tree from top to bottom, without the children of folded ones. */
export const linesOf = (forest: readonly Branch[], folded: ReadonlySet<string>): Branch[] =>
  forest.flatMap((branch) => [branch, ...(folded.has(branch.node.id) ? [] : linesOf(branch.below, folded))])

/** The new place of an entry: its parent, and the sibling before it. */
export interface Place {
  readonly parent: string | null
  readonly after: string | null
}

function siblingsOf(
  forest: readonly Branch[],
  id: string,
  parent: string | null = null,
): { all: readonly Branch[]; parent: string | null } | undefined {
  if (forest.some((node) => node.node.id === id)) return { all: forest, parent }
  for (const tree of forest) {
    const siblings = siblingsOf(tree.below, id, tree.node.id)
    if (siblings) return siblings
  }
  return undefined
}

/** Where an entry is now. */
export function placeOf(forest: readonly Branch[], id: string): Place | undefined {
  const siblings = siblingsOf(forest, id)
  if (!siblings) return undefined
  const index = siblings.all.findIndex((line) => line.node.id === id)
  return { parent: siblings.parent, after: siblings.all[index - 1]?.node.id ?? null }
}

/** The place after a move by keyboard; undefined when there is none in that direction. */
export function placeAfter(
  forest: readonly Branch[],
  id: string,
  move: 'up' | 'down' | 'in' | 'out',
): Place | undefined {
  const siblings = siblingsOf(forest, id)
  if (!siblings) return undefined
  const { all, parent } = siblings
  const index = all.findIndex((line) => line.node.id === id)
  const idAt = (at: number): string | null => all[at]?.node.id ?? null
  switch (move) {
    case 'up':
      return index === 0 ? undefined : { parent, after: idAt(index - 2) }
    case 'down':
      return index === all.length - 1 ? undefined : { parent, after: idAt(index + 1) }
    case 'in': {
      const above = all[index - 1]
      return above && { parent: above.node.id, after: above.below.at(-1)?.node.id ?? null }
    }
    case 'out': {
      if (parent === null) return undefined
      const around = siblingsOf(forest, parent)
      return around && { parent: around.parent, after: parent }
    }
  }
}

/** The place that dropping on another leads to: before it, after it, or as the last below it. */
export function placeAt(
  forest: readonly Branch[],
  target: string,
  where: 'before' | 'after' | 'below',
): Place | undefined {
  const siblings = siblingsOf(forest, target)
  if (!siblings) return undefined
  const { all, parent } = siblings
  const index = all.findIndex((line) => line.node.id === target)
  if (where === 'below') return { parent: target, after: all[index]!.below.at(-1)?.node.id ?? null }
  return { parent, after: where === 'after' ? target : (all[index - 1]?.node.id ?? null) }
}

/** Whether one is below another, or is it: a page cannot move below itself. */
export function isWithin(forest: readonly Branch[], id: string, ancestor: string): boolean {
  const find = (all: readonly Branch[]): Branch | undefined => {
    for (const line of all) {
      if (line.node.id === ancestor) return line
      const inside = find(line.below)
      if (inside) return inside
    }
    return undefined
  }
  const branch = find(forest)
  return (
    id === ancestor || (branch !== undefined && linesOf(branch.below, new Set()).some((line) => line.node.id === id))
  )
}
