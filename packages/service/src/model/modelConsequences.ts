import {
  anyField,
  readAutomation,
  consequencesOf,
  fieldNamed,
  insideGroup,
  ownersInside,
  ownersOf,
  readChangeCondition,
  ModelImpact,
  typeWithId,
  WisteriaError,
  worstFirst,
  type Automation,
  type Consequence,
  type FieldOwner,
  type Model,
  type PlaceReader,
} from '@wisteria/core'
import {
  automationsOf,
  countByRegion,
  countEntriesByType,
  fieldReadsOn,
  storedEntries,
  webhooksOf,
  type Reader,
  type Site,
} from '@wisteria/store'

/** Every consequence of a proposed model: in the models themselves, for stored content, and for readers. */
export async function consequencesFor(reader: Reader, site: Site, model: Model): Promise<Consequence[]> {
  const counts = await countEntriesByType(reader, site.id)
  const all = consequencesOf(
    site.model,
    model,
    Object.fromEntries(counts.map((row) => [row.type, row.kept])),
    Object.fromEntries(counts.map((row) => [row.type, row.binned])),
  )
  const weighing = new ModelImpact(site.model, model, site.settings)
  for (const type of weighing.types) for await (const entry of storedEntries(reader, site, type)) weighing.add(entry)
  const inRegions = await regionalFaults(reader, site, model)
  const broken = [...(await brokenWebhooks(reader, site, model)), ...(await brokenAutomations(reader, site, model))]
  return withReaders(reader, site, model, worstFirst([...all, ...inRegions, ...broken, ...weighing.consequences()]))
}

/** Webhooks whose condition fits the model in force and would not fit the proposed one. */
async function brokenWebhooks(reader: Reader, site: Site, model: Model): Promise<Consequence[]> {
  return (await webhooksOf(reader, site.id)).flatMap(({ label, condition }): Consequence[] => {
    const fault = condition === null ? undefined : faultOf(condition, model)
    if (fault === undefined || faultOf(condition!, site.model) !== undefined) return []
    const message = `The condition of the webhook “${label}” would no longer fit, so it would get all its events: ${fault}`
    return [{ code: 'webhookBroken', weight: 'breaking', place: 'webhooks', message }]
  })
}

/** Automations that fit the model in force and would not fit the proposed one. */
async function brokenAutomations(reader: Reader, site: Site, model: Model): Promise<Consequence[]> {
  const faultUnder = (definition: Automation, under: Model): string | undefined => {
    try {
      readAutomation(definition, under, site.settings)
      return undefined
    } catch (error) {
      return error instanceof WisteriaError ? (error.problems[0]?.message ?? error.message) : String(error)
    }
  }
  return (await automationsOf(reader, site.id)).flatMap(({ definition }): Consequence[] => {
    const fault = faultUnder(definition, model)
    if (fault === undefined || faultUnder(definition, site.model) !== undefined) return []
    const message = `The automation “${definition.label}” would no longer fit, so its runs would fail: ${fault}`
    return [{ code: 'automationBroken', weight: 'breaking', place: 'automations', message }]
  })
}

/** Why a condition over changes cannot be asked under a model. */
function faultOf(condition: string, model: Model): string | undefined {
  try {
    readChangeCondition(condition, model)
    return undefined
  } catch (error) {
    return (error as Error).message
  }
}

/** Types that would be regional no more, and have entries in regions: these would be in no region, with the addresses of others. */
export async function regionalFaults(reader: Reader, site: Site, model: Model): Promise<Consequence[]> {
  const lost = model.types.filter(({ id, regional }) => !regional && typeWithId(site.model, id)?.regional)
  if (lost.length === 0) return []
  const counts = await countByRegion(reader, site)
  return lost.flatMap(({ id, name }): Consequence[] => {
    const entries = counts.filter(({ type }) => type === id).reduce((sum, row) => sum + row.entries, 0)
    if (entries === 0) return []
    const message = `${entries === 1 ? '1 entry of it is' : `${entries} entries of it are`} in regions, those in the bin counted: delete them permanently first.`
    return [{ code: 'typeChanged', weight: 'refused', place: name, message }]
  })
}

/** Adds to everything that breaks the access keys that read it, and when they last did. */
async function withReaders(
  reader: Reader,
  site: Site,
  model: Model,
  all: readonly Consequence[],
): Promise<Consequence[]> {
  if (!all.some((change) => change.weight !== 'plain')) return [...all]
  const reads = await fieldReadsOn(reader, site.id)
  if (reads.length === 0) return [...all]
  return all.map((change) => {
    const place =
      change.weight === 'plain' ? undefined : (placeIn(site.model, change.place) ?? placeIn(model, change.place))
    if (!place) return change
    const owners = holdersOf(site.model, place.owner)
    const readers = new Map<string, PlaceReader>()
    for (const read of reads) {
      const isOwn =
        read.type === place.owner && (place.field === undefined || read.field === place.field || read.field === '*')
      const isAround = read.field === '*' && owners.has(read.type)
      if ((isOwn || isAround) && !readers.has(read.key))
        readers.set(read.key, { key: read.key, label: read.label, lastReadAt: read.at, name: read.name })
    }
    return readers.size > 0 ? { ...change, readers: [...readers.values()] } : change
  })
}

/** The ids behind a place such as `activity.price`. */
function placeIn(model: Model, place: string): { owner: string; field: string | undefined } | undefined {
  const [name, ...path] = place.split('.')
  const owner = ownersOf(model).find((candidate) => candidate.name === name)
  if (!owner) return undefined
  let here: FieldOwner | undefined = owner
  let id: string | undefined
  for (const step of path) {
    const field: ReturnType<typeof fieldNamed> = here && fieldNamed(here, step)
    if (!field) return undefined
    id = field.id
    here = insideGroup(field)
  }
  return { owner: owner.id, field: id }
}

/** The types whose whole entries bring a block type along. */
function holdersOf(model: Model, block: string): Set<string> {
  return new Set(
    model.types
      .filter((type) =>
        anyField(model, type, (field) => ownersInside(model, field).some((inside) => inside.id === block)),
      )
      .map((type) => type.id),
  )
}
