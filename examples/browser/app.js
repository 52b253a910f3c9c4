// Reads in the browser. The key only reads what is public, so it may stand in a page.
import { all, field, Reader, WisteriaProblem } from '@wisteria/client'

const { baseUrl, key } = await (await fetch('config.json')).json()
const reader = new Reader({ baseUrl, site: 'marram', token: key })
const select = document.querySelector('#format')
const list = document.querySelector('#list')

for (const format of ['', 'walk', 'talk', 'concert', 'workshop']) select.add(new Option(format || 'All', format))

async function show() {
  try {
    const { entries } = await reader.entries('activity', {
      where: all(field('starts').hasValue(), select.value && field('format').is(select.value)),
      sort: 'starts',
      pick: 'title, starts, museum(name)',
    })
    list.replaceChildren(
      ...entries.map(({ values: { title, starts, museum } }) => {
        const item = document.createElement('li')
        item.textContent = `${title}, ${new Date(starts).toLocaleDateString('en')}, ${museum?.values.name ?? ''}`
        return item
      }),
    )
  } catch (error) {
    list.textContent = error instanceof WisteriaProblem ? error.message : 'This did not work.'
  }
}
select.addEventListener('change', show)
await show()
