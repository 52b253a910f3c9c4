import { Service, type AccessKey, type Editor } from '@wisteria/client'
import {
  assetKey,
  demoMembers,
  demoOwner,
  demoPassword,
  demoPictures,
  demoSite,
  readDemoAutomations,
  readDemoModel,
  readPicture,
  readWorld,
  withIds,
} from './world.js'

export interface SeedOptions {
  readonly baseUrl: string
  /** The one-time code for creating the first owner. */
  readonly setUpCode: string
  /** Called with the progress. */
  readonly onProgress?: (done: number, of: number, what: string) => void
}

export interface Seeded {
  readonly keys: { readonly published: string; readonly draft: string; readonly edit: string }
  readonly users: readonly { readonly email: string; readonly password: string; readonly role: string }[]
}

/** Makes the demo world in an empty service, through the public client. */
export async function seedDemo({ baseUrl, setUpCode, onProgress = () => undefined }: SeedOptions): Promise<Seeded> {
  const world = readWorld()
  const total = world.length + 5
  let done = 0
  const step = (what: string) => onProgress(++done, total, what)

  const { email, name } = demoOwner
  const { token } = await new Service({ baseUrl }).setUp({
    code: setUpCode,
    email,
    name,
    password: demoPassword,
    site: demoSite,
    as: 'token',
  })
  const owner = new Service({ baseUrl, token }).site(demoSite.name)
  for (const member of demoMembers) await owner.addMember({ ...member, password: demoPassword })
  step('people with accounts')
  const proposal = await owner.compareModel(readDemoModel())
  await owner.adoptModel(proposal.id)
  step('the model')

  // Written by an editor, so that the history has two authors.
  const editorSession = await new Service({ baseUrl }).signIn({
    email: 'ilse@marram.example',
    password: demoPassword,
    as: 'token',
  })
  const editor = new Service({ baseUrl, token: editorSession.token }).site(demoSite.name)
  const ids = new Map<string, string>()
  for (const { name, alt } of demoPictures) {
    const added = await editor.addAsset({ name: `${name}.webp`, content: readPicture(name).toString('base64'), alt })
    ids.set(assetKey(name), added.id)
  }
  step('pictures')
  for (const entry of world) {
    ids.set(entry.key, await makeEntry(editor, entry, ids))
    step(`${entry.type} ${entry.key}`)
  }
  await owner.automations.adopt(readDemoAutomations(), {})
  step('automations')
  const keyFor = async (label: string, scope: AccessKey['scope']) => (await owner.createKey({ label, scope })).secret
  const keys = {
    published: await keyFor('Sample front end', 'published'),
    draft: await keyFor('Drafts, for trying out', 'draft'),
    edit: await keyFor('Editing, for trying out', 'edit'),
  }
  step('access keys')
  return {
    keys,
    users: [demoOwner, ...demoMembers].map((user) => ({ email: user.email, password: demoPassword, role: user.role })),
  }
}

async function makeEntry(
  editor: Editor,
  entry: ReturnType<typeof readWorld>[number],
  ids: ReadonlyMap<string, string>,
): Promise<string> {
  const values = withIds(entry.values, ids) as Record<string, unknown>
  // A type with exactly one entry has it already: it is filled in.
  const only = entry.key === entry.type ? await editor.entry(entry.type) : undefined
  let draft = only
    ? await editor.patch(only.id, only.version, values)
    : await editor.create({ type: entry.type, values })
  if (entry.publish.length > 0) draft = await editor.publish(draft.id, { locales: entry.publish })
  if (entry.withdraw) draft = await editor.withdraw(draft.id)
  if (entry.edit) await editor.patch(draft.id, draft.version, withIds(entry.edit, ids) as Record<string, unknown>)
  return draft.id
}
