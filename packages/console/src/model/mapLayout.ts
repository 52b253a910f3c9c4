import { Graph, layout } from '@dagrejs/dagre'
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
  readonly height: number
}

/** From one box to another: the fields that lead there. */
export interface Link {
  readonly from: string
  readonly to: string
  readonly fields: readonly string[]
}

/** A link between types as it is drawn. Most types have most blocks, so links of blocks have no lines: the boxes light up. */
export interface Line extends Link {
  /** Corners of an orthogonal path, none of them behind a box. */
  readonly points: readonly Point[]
  /** The place of its fields' names: at its beginning, on the side where it leaves the box. */
  readonly label: { readonly at: Point; readonly anchor: 'start' | 'end' }
}

type Point = readonly [x: number, y: number]

export interface MapLayout {
  readonly boxes: readonly Box[]
  readonly links: readonly Link[]
  readonly lines: readonly Line[]
  /** The height at which the block types begin. */
  readonly blocksAt: number
  readonly width: number
  readonly height: number
}

export const boxWidth = 184
const boxHeight = 52
/** Between two columns: names of fields first, then lanes for the vertical parts of lines. */
const gapX = 132
const lanesFrom = 100
const laneStep = 5
const gapY = 22
const margin = 24
/** Room for the heading of the block types. */
const captionHeight = 40
/** Between two lines that leave a box by the same side: a line of small text. */
const portStep = 17

/** All references: by ids of types and block types. */
export function referencesOf(model: Model): Map<string, Map<string, string[]>> {
  const found = new Map<string, Map<string, string[]>>()
  for (const owner of ownersOf(model)) {
    const fieldsByTarget = new Map<string, string[]>()
    eachField(owner, (field, on) => {
      const shape = shapeOf(field)
      const name = [...on, field].map((step) => step.name).join('.')
      const targets =
        shape.is === 'reference'
          ? shape.to.flatMap((to) => typeNamed(model, to)?.id ?? [])
          : shape.is === 'blocks'
            ? shape.of.flatMap((to) => blockTypeNamed(model, to)?.id ?? [])
            : shape.is === 'richText'
              ? shape.entries.flatMap((to) => typeNamed(model, to)?.id ?? [])
              : []
      for (const id of targets) fieldsByTarget.set(id, [...(fieldsByTarget.get(id) ?? []), name])
    })
    found.set(owner.id, fieldsByTarget)
  }
  return found
}

/**
 * Puts types in columns by the direction of their references, as layered graphs are drawn: a type stands before those that it
 * refers to, except in circles, with few crossings; block types stand in rows below. The same model always gives the same map.
 */
export function layOut(model: Model): MapLayout {
  const references = referencesOf(model)
  const layered = layeredTypes(model, references)
  const bottom = Math.max(0, ...layered.boxes.map((box) => box.y + box.height)) + gapY
  const blocksAt = bottom + gapY
  const columns = Math.max(0, ...layered.boxes.map((box) => box.column + 1))
  const blocks = blockBoxes(model, columns, blocksAt + captionHeight)
  const boxes = [...layered.boxes, ...blocks]
  const links = boxes.flatMap(({ id: from }) =>
    [...(references.get(from) ?? [])].map(([to, fields]): Link => ({ from, to, fields })),
  )
  const typesById = new Map(layered.boxes.map((box) => [box.id, box]))
  const routes = links.flatMap(({ from, to, fields }): Route[] => {
    const [start, end] = [typesById.get(from), typesById.get(to)]
    return start && end ? [{ from: start, to: end, fields, between: layered.between.get(`${from} ${to}`) ?? [] }] : []
  })
  return {
    boxes,
    links,
    lines: drawLines(routes, bottom),
    blocksAt,
    width: Math.max(...boxes.map((box) => box.x + boxWidth), 0) + margin,
    height: Math.max(blocksAt, ...blocks.map((box) => box.y + box.height)) + margin,
  }
}

interface Route {
  readonly from: Box
  readonly to: Box
  readonly fields: readonly string[]
  /** The heights at which it crosses the columns between, from its beginning on. */
  readonly between: readonly number[]
}

const xOf = (column: number): number => margin + column * (boxWidth + gapX)

/** The types as a layered graph, with the heights at which long references pass the columns between. */
function layeredTypes(
  model: Model,
  references: ReadonlyMap<string, ReadonlyMap<string, readonly string[]>>,
): { boxes: Box[]; between: Map<string, number[]> } {
  const graph = new Graph<object, { x: number; y: number; height: number }, { points: { y: number }[] }>()
  graph.setGraph({ rankdir: 'LR', nodesep: gapY, edgesep: portStep, ranksep: gapX, ranker: 'network-simplex' })
  graph.setDefaultEdgeLabel(() => ({ points: [] }))
  const typeIds = new Set(model.types.map((type) => type.id))
  for (const type of model.types) {
    const leaving = [...(references.get(type.id)?.keys() ?? [])].filter((to) => typeIds.has(to)).length
    const height = Math.max(boxHeight, (leaving + 1) * portStep)
    graph.setNode(type.id, { width: boxWidth, height, x: 0, y: 0 } as { x: number; y: number; height: number })
  }
  for (const { id } of model.types)
    for (const to of references.get(id)?.keys() ?? []) if (typeIds.has(to) && to !== id) graph.setEdge(id, to)
  layout(graph)
  const nodes = model.types.map((type) => ({ type, ...graph.node(type.id) }))
  const columns = [...new Set(nodes.map(({ x }) => Math.round(x)))].sort((a, b) => a - b)
  const top = Math.min(0, ...nodes.map(({ y, height }) => y - height / 2))
  const boxes = nodes.map(({ type, x, y, height }): Box => {
    const column = columns.indexOf(Math.round(x))
    return {
      id: type.id,
      owner: type,
      isBlock: false,
      column,
      x: xOf(column),
      y: margin + y - height / 2 - top,
      height,
    }
  })
  const between = new Map(
    graph.edges().map(({ v, w }) => {
      const { points } = graph.edge(v, w)
      // The layout puts a stop between any two columns too, for labels.
      const stops = points.slice(1, -1).filter((_, index) => index % 2 === 1)
      return [`${v} ${w}`, stops.map(({ y }) => margin + y - top)] as const
    }),
  )
  return { boxes, between }
}

/** The block types, in rows below all types and about as wide as these. */
function blockBoxes(model: Model, columns: number, top: number): Box[] {
  const step = boxWidth + gapY
  const perRow = Math.max(4, Math.floor((xOf(columns) - gapX) / step))
  return model.blockTypes.map((block, index): Box => {
    const column = index % perRow
    const y = top + Math.floor(index / perRow) * (boxHeight + gapY)
    return { id: block.id, owner: block, isBlock: true, column, x: margin + column * step, y, height: boxHeight }
  })
}

/** Lines from box to box: horizontal at heights without boxes, vertical in lanes between the columns. */
function drawLines(routes: readonly Route[], bottom: number): Line[] {
  const leaving = ports(routes, 'from')
  const arriving = ports(routes, 'to')
  const lanes = new Map<number, number>()
  /** A lane of its own in the gap after a column, while there are free ones. */
  const laneAfter = (gap: number): number => {
    const used = lanes.get(gap) ?? 0
    lanes.set(gap, used + 1)
    return xOf(gap) + boxWidth + lanesFrom + ((used * laneStep) % (gapX - lanesFrom - 8))
  }
  return routes.map((route): Line => {
    const { from, to, fields, between } = route
    const isForward = to.column > from.column
    const leavesRight = to.column >= from.column
    const [startY, endY] = [leaving.get(route)!, arriving.get(route)!]
    const start: Point = [leavesRight ? from.x + boxWidth : from.x, startY]
    const points: Point[] = [start]
    const go = (x: number, y: number): void => void points.push([x, points.at(-1)![1]], [x, y])
    if (from === to) {
      // Out by the side, and in again from above.
      const [aside, above] = [from.x + boxWidth + 10, from.y - 8]
      points.push([aside, startY], [aside, above], [aside - 34, above], [aside - 34, from.y])
    } else {
      // Gaps are numbered by the column before them: those on its way, from its beginning on.
      const gaps = Array.from({ length: Math.abs(to.column - from.column) }, (_, step) =>
        isForward ? from.column + step : from.column - 1 - step,
      )
      const heights = [...between, endY]
      if (gaps.length > 0 && heights.length === gaps.length)
        gaps.forEach((gap, step) => go(laneAfter(gap), heights[step]!))
      else {
        // No height is free: below everything.
        const last = isForward ? to.column - 1 : to.column
        if (gaps.length > 1) go(laneAfter(gaps[0]!), bottom)
        go(laneAfter(gaps.length > 0 ? last : to.column), endY)
      }
      points.push([isForward ? to.x : to.x + boxWidth, endY])
    }
    const label = {
      at: [start[0] + (from === to ? 14 : leavesRight ? 6 : -6), startY - 3] as const,
      anchor: leavesRight ? 'start' : 'end',
    } as const
    return { from: from.id, to: to.id, fields, points, label }
  })
}

/** The heights at which lines leave or reach their boxes: in the order of their other ends. */
function ports(routes: readonly Route[], end: 'from' | 'to'): Map<Route, number> {
  const heights = new Map<Route, number>()
  /** A line back to its own box runs above all others. */
  const next = (route: Route): number =>
    route.from === route.to
      ? -Infinity
      : end === 'from'
        ? (route.between[0] ?? route.to.y)
        : (route.between.at(-1) ?? route.from.y)
  for (const box of new Set(routes.map((route) => route[end]))) {
    const ending = routes.filter((route) => route[end] === box)
    const sorted = ending.toSorted((a, b) => next(a) - next(b))
    sorted.forEach((route, index) => heights.set(route, box.y + ((index + 1) * box.height) / (sorted.length + 1)))
  }
  return heights
}

export type Direction = 'left' | 'right' | 'up' | 'down'

/** Where an arrow key leads on the map: along references sideways, within the column up and down; among block types within the row. */
export function neighbourOf({ boxes, links }: MapLayout, id: string, direction: Direction): string | undefined {
  const box = boxes.find((candidate) => candidate.id === id)
  if (!box) return boxes[0]?.id
  if (direction === 'up' || direction === 'down') {
    const column = boxes.filter((other) => other.column === box.column).sort((a, b) => a.y - b.y)
    return column[column.indexOf(box) + (direction === 'down' ? 1 : -1)]?.id
  }
  if (box.isBlock) {
    const row = boxes.filter((other) => other.isBlock && other.y === box.y)
    return row[row.indexOf(box) + (direction === 'right' ? 1 : -1)]?.id
  }
  const ends = links.flatMap((link) =>
    direction === 'right' ? (link.from === id ? [link.to] : []) : link.to === id ? [link.from] : [],
  )
  const near = boxes
    .filter((box) => ends.includes(box.id) && box.id !== id)
    .sort((a, b) => Math.abs(a.y - box.y) - Math.abs(b.y - box.y))
  return near[0]?.id
}
