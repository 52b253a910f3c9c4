import { useEventListener } from '@vueuse/core'

/** The action of a key. It returns `false` where the key has another meaning, which the browser then handles. */
type Action = () => unknown

/** The name of a pressed key with its modifiers: `mod+shift+z`, `f6`. `mod` is Ctrl, and Command on a Mac. */
export function shortcutOf(event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>): string {
  return [
    (event.ctrlKey || event.metaKey) && 'mod',
    event.altKey && 'alt',
    event.shiftKey && 'shift',
    event.key.toLowerCase(),
  ]
    .filter(Boolean)
    .join('+')
}

/** Keys that work anywhere on the page, for as long as the component is there. */
export function useShortcuts(actions: Readonly<Record<string, Action>>): void {
  useEventListener('keydown', (event) => {
    const action = actions[shortcutOf(event)]
    if (action && action() !== false) event.preventDefault()
  })
}
