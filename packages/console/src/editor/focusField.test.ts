import { afterEach, describe, expect, it } from 'vitest'
import { controlIn, firstControl } from './focusField'

const page = (html: string): HTMLElement => {
  document.body.innerHTML = html
  return document.body
}
afterEach(() => (document.body.innerHTML = ''))

describe('the control to write in', () => {
  it('of a field is its text, before its choices and buttons', () => {
    const field = page(
      '<button class="el-button">Add a file…</button><input role="combobox"><textarea id="x"></textarea>',
    )
    expect(controlIn(field)?.id).toBe('x')
  })
  it('of a block is in its first field, also where a later field has a text', () => {
    const block = page(
      '<div class="field"><input id="picture" role="combobox"></div><div class="field"><textarea id="caption"></textarea></div>',
    )
    expect(firstControl(block)?.id).toBe('picture')
  })
  it('of a block that begins with a group, or with a locked field, is in the first field that can be written', () => {
    const block = page(
      '<div class="field"><div class="field"><input id="locked" disabled></div><div class="field"><input id="phone"></div></div><div class="field"><textarea></textarea></div>',
    )
    expect(firstControl(block)?.id).toBe('phone')
  })
  it('is none where there is no control', () => expect(firstControl(page('<p>Text</p>'))).toBeUndefined())
})
