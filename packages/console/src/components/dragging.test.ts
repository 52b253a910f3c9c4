import { describe, expect, it, vi } from 'vitest'
import { useDragging } from './dragging'

const event = () =>
  ({ preventDefault: vi.fn(), stopPropagation: vi.fn() }) as unknown as DragEvent & {
    preventDefault: ReturnType<typeof vi.fn>
  }

/** Letters that may go anywhere but before `a`. */
function letters() {
  const drop = vi.fn()
  return { drop, dragging: useDragging<string, string>((_, item) => (item === 'a' ? undefined : item), drop) }
}

describe('dragging', () => {
  it('puts what was dragged where it was dropped', () => {
    const { drop, dragging } = letters()
    dragging.from('c').dragstart(event())
    const over = event()
    dragging.onto('b').dragover(over)
    expect(over.preventDefault).toHaveBeenCalled()
    expect([dragging.dragged.value, dragging.place.value]).toEqual(['c', 'b'])
    dragging.onto('b').drop(event())
    expect(drop).toHaveBeenCalledExactlyOnceWith('c', 'b')
    expect([dragging.dragged.value, dragging.place.value]).toEqual([undefined, undefined])
  })

  it('puts nothing where it cannot go, nor where it was over before', () => {
    const { drop, dragging } = letters()
    dragging.from('c').dragstart(event())
    dragging.onto('b').dragover(event())
    const over = event()
    dragging.onto('a').dragover(over)
    expect(over.preventDefault).not.toHaveBeenCalled()
    dragging.onto('a').drop(event())
    expect(drop).not.toHaveBeenCalled()
  })

  it('leaves files, and what is dragged in another list, to others', () => {
    const { drop, dragging } = letters()
    const over = event()
    dragging.onto('b').dragover(over)
    const dropped = event()
    dragging.onto('b').drop(dropped)
    expect(drop).not.toHaveBeenCalled()
    expect([over.preventDefault, dropped.preventDefault].flatMap((spy) => spy.mock.calls)).toEqual([])
  })

  it('puts nothing when it is cancelled', () => {
    const { drop, dragging } = letters()
    const from = dragging.from('c')
    from.dragstart(event())
    dragging.onto('b').dragover(event())
    from.dragend()
    dragging.onto('b').drop(event())
    expect(drop).not.toHaveBeenCalled()
  })
})
