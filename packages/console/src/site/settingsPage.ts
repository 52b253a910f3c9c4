import { onMounted, shallowRef } from 'vue'
import { openSite, type Site } from '../session'

/**
 * The data of a settings page: the site, and the content.
 * @param name of the site.
 * @param read reads the content, at the start and whenever the page is loaded again.
 */
export function useSettings<Content>(name: string, read: (site: Site) => Promise<Content>) {
  const site = shallowRef<Site>()
  const content = shallowRef<Content>()
  const trouble = shallowRef<unknown>()
  async function load(): Promise<void> {
    trouble.value = undefined
    try {
      const opened = await openSite(name)
      content.value = await read(opened)
      site.value = opened
    } catch (error) {
      trouble.value = error
    }
  }
  onMounted(load)
  return { site, content, trouble, load }
}
