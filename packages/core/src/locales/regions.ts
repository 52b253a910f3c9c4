import type { Problem } from '../base/errors.js'

/** A market with a structure of its own. Entries of types that are `regional` belong to one. */
export interface Region {
  /** Paths in it begin with its name: `/north/visit`. */
  readonly name: string
  readonly label: string
}

/** Settings of a site, as far as they are about regions. */
interface HasRegions {
  readonly regions?: readonly Region[] | undefined
}

/** The region of an entry that is in no other. */
export const mainRegion = 'main'

/** A region as entries store it: null for the main one. */
export const storedRegion = (name: string): string | null => (name === mainRegion ? null : name)

/** The most regions that a site has. */
export const maxRegions = 50

const namePattern = /^[a-z][a-z0-9]*(-[a-z0-9]+)*$/

/** The names of all regions of a site, the main one first. */
export const regionNames = (settings: HasRegions): string[] => [
  mainRegion,
  ...(settings.regions ?? []).map(({ name }) => name),
]

/** The label of a region for people: its name where the site does not know it. */
export const regionLabel = (settings: HasRegions, name: string): string =>
  settings.regions?.find((region) => region.name === name)?.label ?? name

/** The path of an entry in a region: below the region's name, unless the path of its parent is there already. */
export function pathInRegion(path: string, region: string | null): string {
  if (region === null || region === mainRegion) return path
  const root = `/${region}`
  if (path === root || path.startsWith(`${root}/`)) return path
  return path === '/' ? root : root + path
}

/** Everything wrong with regions, each with a pointer. */
export function checkRegions(regions: readonly Region[]): Problem[] {
  return regions.flatMap(({ name, label }, index): Problem[] => {
    const pointer = `/regions/${index}`
    const problems: Problem[] = []
    if (name === mainRegion)
      problems.push({
        code: 'reservedName',
        pointer: `${pointer}/name`,
        message: `\`${mainRegion}\` is the region of all entries that are in no other. Choose another name.`,
      })
    else if (!namePattern.test(name) || name.length > 40)
      problems.push({
        code: 'badName',
        pointer: `${pointer}/name`,
        message: `\`${name.slice(0, 60)}\` is not a name for a region: use lowercase letters, digits and hyphens, such as \`north\`.`,
      })
    if (regions.findIndex((other) => other.name === name) !== index)
      problems.push({ code: 'twice', pointer: `${pointer}/name`, message: `\`${name}\` is listed twice.` })
    if (label.trim() === '')
      problems.push({ code: 'required', pointer: `${pointer}/label`, message: `Give \`${name}\` a label.` })
    return problems
  })
}
