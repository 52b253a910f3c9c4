import { describe, expect, it } from 'vitest'
import { shortcutOf } from './shortcuts'

const bare = { ctrlKey: false, metaKey: false, altKey: false, shiftKey: false }

describe('the name of a pressed key', () => {
  it.each([
    [{ key: 'F6' }, 'f6'],
    [{ key: 'F6', shiftKey: true }, 'shift+f6'],
    [{ key: 'k', ctrlKey: true }, 'mod+k'],
    [{ key: 'Enter', metaKey: true }, 'mod+enter'],
    [{ key: 'Z', metaKey: true, shiftKey: true }, 'mod+shift+z'],
    // AltGr is Ctrl and Alt on some keyboards: a letter that it writes is no shortcut.
    [{ key: 's', ctrlKey: true, altKey: true }, 'mod+alt+s'],
  ])('%o is %s', (pressed, name) => {
    expect(shortcutOf({ ...bare, ...pressed })).toBe(name)
  })
})
