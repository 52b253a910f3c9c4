import { shallowRef } from 'vue'

/**
 * Dragging one item of a list onto another. Spread `from(item)` over the dragged element and `onto(item)` over the target, with
 * `v-on`.
 * @param placeAt where the dragged item would go if it were dropped on another; `undefined` where it cannot.
 * @param drop puts it there.
 */
export function useDragging<Item, Place>(
  placeAt: (dragged: Item, item: Item, event: DragEvent) => Place | undefined,
  drop: (dragged: Item, place: Place) => unknown,
) {
  const dragged = shallowRef<Item>()
  const place = shallowRef<Place>()
  function end(): void {
    dragged.value = place.value = undefined
  }
  return {
    dragged,
    place,
    from: (item: Item) => ({
      dragstart(event: DragEvent): void {
        event.stopPropagation()
        dragged.value = item
      },
      dragend: end,
    }),
    onto: (item: Item) => ({
      dragover(event: DragEvent): void {
        if (dragged.value === undefined) return
        place.value = placeAt(dragged.value, item, event)
        if (place.value !== undefined) event.preventDefault()
      },
      drop(event: DragEvent): void {
        const [from, to] = [dragged.value, place.value]
        end()
        if (from === undefined || to === undefined) return
        event.preventDefault()
        event.stopPropagation()
        drop(from, to)
      },
    }),
  }
}
