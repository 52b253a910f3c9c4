/** Where one writes or chooses in a control, in the order of preference; not labels and tools. */
const written = [
  '.ProseMirror',
  'textarea:not([disabled])',
  'input:not([type="hidden"]):not([type="checkbox"]):not([type="file"]):not([disabled])',
  '[role="combobox"]',
  '[role="radiogroup"] input, [role="switch"], input[type="checkbox"]',
  '.el-button:not([disabled])',
]

/** The first input inside an element; undefined where there is none. */
export function controlIn(element: HTMLElement): HTMLElement | undefined {
  for (const selector of written) {
    const [first] = [...element.querySelectorAll<HTMLElement>(selector)]
    if (first) return first
  }
  return undefined
}

/** The control of the first field inside an element that has one. */
export function firstControl(element: HTMLElement): HTMLElement | undefined {
  const fields = [...element.querySelectorAll<HTMLElement>('.field')]
  for (const field of fields) {
    const control = field.querySelector('.field') ? undefined : controlIn(field)
    if (control) return control
  }
  return controlIn(element)
}

/** Shows a field and focuses its control. */
export function focusField(element: HTMLElement): void {
  element.scrollIntoView({ block: 'center' })
  controlIn(element)?.focus({ preventScroll: true })
}

/** The element of the field at a pointer, or of the nearest around it. */
export function fieldElement(pointer: string): HTMLElement | null {
  for (let at = pointer; at.length > 1; at = at.slice(0, at.lastIndexOf('/'))) {
    const element = document.getElementById(`field${at.replaceAll('/', '-')}`)
    if (element) return element
  }
  return null
}
