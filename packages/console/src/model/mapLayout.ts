import {
  ownersOf,
  shapeOf,
  eachField,
  blockTypeNamed,
  typeNamed,
  type BlockType,
  type ContentType,
  type Model,
} from '@wisteria/core'

/** A type or block type on the map. Sizes are pixels. */
export interface Box {
  readonly id: string
  readonly owner: ContentType | BlockType
  readonly isBlock: boolean
  readonly column: number
  readonly x: number
  readonly y: number
}

/** From one box to another, for a reader of the map: which fields lead there. */
export interface Line {
  readonly from: string
  readonly to: string
  readonly fields: readonly string[]
  /** Whether it leads to a block type: most types hold most blocks, so these are drawn when they are asked for. */
  readonly toBlock: boolean
  /** Corners of an orthogonal path. */
  readonly points: readonly (readonly [number, number])[]
}

export interface MapLayout {
  readonly boxes: readonly Box[]
  readonly lines: readonly Line[]
  readonly width: number
  readonly height: number
}

export const boxWidth = 164
export const boxHeight = 52
const gapX = 72
const gapY = 20
const margin = 24

/** What refers to what: by ids of types and block types. */
export function referencesOf(model: Model): Map<string, Map<string, string[]>> {
  const found = new Map<string, Map<string, string[]>>()
  for (const owner of ownersOf(model)) {
    const own = new Map<string, string[]>()
    eachField(owner, (field, on) => {
      const shape = shapeOf(field)
      const name = [...on, field].map((one) => one.name).join('.')
      const targets =
        shape.is === 'reference'
          ? shape.to.flatMap((to) => typeNamed(model, to)?.id ?? [])
          : shape.is === 'blocks'
            ? shape.of.flatMap((to) => blockTypeNamed(model, to)?.id ?? [])
            : shape.is === 'richText'
              ? shape.entries.flatMap((to) => typeNamed(model, to)?.id ?? [])
              : []
      for (const id of targets) own.set(id, [...(own.get(id) ?? []), name])
    })
    found.set(owner.id, own)
  }
  return found
}

/**
 * Puts types in columns by the direction of their references: what refers stands before what it refers to, circles aside;
 * blocks stand last. The same model always gives the same map.
 */
export function layOut(model: Model): MapLayout {
  const references = referencesOf(model)
  const columnOf = columnsOf(model, references)
  const columns = Math.max(0, ...columnOf.values()) + 1
  const counts = new Map<number, number>()
  const boxes: Box[] = ownersOf(model).map((owner) => {
    const column = columnOf.get(owner.id)!
    const row = counts.get(column) ?? 0
    counts.set(column, row + 1)
    return {
      id: owner.id,
      owner,
      isBlock: !('cardinality' in owner),
      column,
      x: margin + column * (boxWidth + gapX),
      y: margin + row * (boxHeight + gapY),
    }
  })
  const byId = new Map(boxes.map((box) => [box.id, box]))
  const rows = Math.max(0, ...counts.values())
  const height = margin * 2 + rows * (boxHeight + gapY)
  const lanes = new Map<number, number>()
  const lines: Line[] = []
  for (const box of boxes)
    for (const [to, fields] of references.get(box.id) ?? []) {
      const target = byId.get(to)
      if (!target) continue
      lines.push({ from: box.id, to, fields, toBlock: target.isBlock, points: pathBetween(box, target, lanes, height) })
    }
  return { boxes, lines, width: margin + columns * (boxWidth + gapX), height: height + 16 }
}

function columnsOf(
  model: Model,
  references: ReadonlyMap<string, ReadonlyMap<string, readonly string[]>>,
): Map<string, number> {
  const columns = new Map<string, number>()
  const types = new Set(model.types.map((type) => type.id))
  const visiting = new Set<string>()
  /** How many steps of references lie before the end. */
  const depthOf = (id: string): number => {
    const known = columns.get(id)
    if (known !== undefined) return known
    if (visiting.has(id)) return -1
    visiting.add(id)
    const depth =
      Math.max(-1, ...[...(references.get(id)?.keys() ?? [])].filter((to) => types.has(to) && to !== id).map(depthOf)) +
      1
    visiting.delete(id)
    columns.set(id, depth)
    return depth
  }
  for (const type of model.types) depthOf(type.id)
  const deepest = Math.max(0, ...columns.values())
  for (const [id, depth] of columns) columns.set(id, deepest - depth)
  const perColumn = Math.max(10, ...[...counted(columns).values()])
  model.blockTypes.forEach((block, index) => columns.set(block.id, deepest + 1 + Math.floor(index / perColumn)))
  return columns
}

function counted(columns: ReadonlyMap<string, number>): Map<number, number> {
  const counts = new Map<number, number>()
  for (const column of columns.values()) counts.set(column, (counts.get(column) ?? 0) + 1)
  return counts
}

/** Out at the side, along a lane between the columns, in at the other side. Each line of a gap has a lane of its own. */
function pathBetween(from: Box, to: Box, lanes: Map<number, number>, height: number): [number, number][] {
  const lane = (gap: number): number => {
    const used = lanes.get(gap) ?? 0
    lanes.set(gap, used + 1)
    return 12 + ((used * 7) % (gapX - 28))
  }
  const [startY, endY] = [from.y + boxHeight / 2 + 6, to.y + boxHeight / 2 - 6]
  const out = from.x + boxWidth
  if (to.column === from.column + 1) {
    const x = out + lane(from.column)
    return [
      [out, startY],
      [x, startY],
      [x, endY],
      [to.x, endY],
    ]
  }
  if (to.column > from.column) {
    // Over other columns it goes below them all.
    const first = out + lane(from.column)
    const last = to.x - 12 - (((lanes.get(1000 + to.column) ?? 0) * 5) % 40)
    lanes.set(1000 + to.column, (lanes.get(1000 + to.column) ?? 0) + 1)
    const below = Math.max(from.y, to.y) + boxHeight + gapY / 2
    const y = Math.min(below, height)
    return [
      [out, startY],
      [first, startY],
      [first, y],
      [last, y],
      [last, endY],
      [to.x, endY],
    ]
  }
  // To its own column, or back: round by the right side.
  const x = Math.max(out, to.x + boxWidth) + lane(Math.max(from.column, to.column))
  return [
    [out, startY],
    [x, startY],
    [x, endY],
    [to.x + boxWidth, endY],
  ]
}

export type Direction = 'left' | 'right' | 'up' | 'down'

/** Where an arrow key leads on the map: along references sideways, within the column up and down. */
export function neighbourOf({ boxes, lines }: MapLayout, id: string, direction: Direction): string | undefined {
  const box = boxes.find((candidate) => candidate.id === id)
  if (!box) return boxes[0]?.id
  if (direction === 'up' || direction === 'down') {
    const column = boxes.filter((other) => other.column === box.column).sort((a, b) => a.y - b.y)
    return column[column.indexOf(box) + (direction === 'down' ? 1 : -1)]?.id
  }
  const ends = lines.flatMap((line) =>
    direction === 'right' ? (line.from === id ? [line.to] : []) : line.to === id ? [line.from] : [],
  )
  const near = boxes
    .filter((other) => ends.includes(other.id) && other.id !== id)
    .sort((a, b) => Math.abs(a.y - box.y) - Math.abs(b.y - box.y))
  return near[0]?.id
}
