/** Roles of a member of a site, most powerful first. */
export const roles = ['owner', 'developer', 'editor', 'translator', 'viewer'] as const
export type Role = (typeof roles)[number]

export const keyScopes = ['published', 'draft', 'write', 'edit', 'model'] as const
export type KeyScope = (typeof keyScopes)[number]

/** All permissions, with the right that each gives. */
export const permissions = {
  anyone: 'Open to everybody.',
  signedIn: 'Everybody who is signed in, whatever their sites.',
  'published.read': 'Read the published edition.',
  'draft.read': 'Read working copies and their history.',
  'member.self': 'Report presence at an entry, save views of one’s own, open previews.',
  'entry.write': 'Create and change entries, and delete those that are not public.',
  'entry.translate': 'Change the values of locales, not the shared ones.',
  'entry.publish': 'Publish and withdraw, now or scheduled; archive.',
  'model.read': 'Read the model and the settings.',
  'model.change': 'Compare and adopt models.',
  'settings.change': 'Change the name, the locales and the time zone of a site, and who may read it without a key.',
  'integration.manage': 'Manage access keys, front ends and webhooks; read the event log.',
  'site.archive': 'Export a whole site, and import one into a site that is empty.',
  'member.read': 'See the members.',
  'member.manage': 'Invite, change and remove members.',
  'account.manage': 'Disable accounts, and make one-time links for new passwords.',
  operate: 'Operate the service: sites, accounts, rebuilding.',
} as const
export type Permission = keyof typeof permissions

const viewer: Permission[] = ['published.read', 'draft.read', 'model.read', 'member.read', 'member.self']
const translator: Permission[] = [...viewer, 'entry.translate']
const editor: Permission[] = [...translator, 'entry.write', 'entry.publish']
const developer: Permission[] = [...editor, 'model.change', 'settings.change', 'integration.manage']

const grantedTo: Record<Role, ReadonlySet<Permission>> = {
  viewer: new Set(viewer),
  translator: new Set(translator),
  editor: new Set(editor),
  developer: new Set(developer),
  owner: new Set([...developer, 'member.manage', 'site.archive']),
}

const opened: Record<KeyScope, ReadonlySet<Permission>> = {
  published: new Set(['published.read']),
  draft: new Set(['published.read', 'draft.read', 'model.read']),
  write: new Set(['published.read', 'draft.read', 'model.read', 'entry.translate', 'entry.write']),
  edit: new Set(['published.read', 'draft.read', 'model.read', 'entry.translate', 'entry.write', 'entry.publish']),
  model: new Set(['model.read', 'model.change']),
}

/** The caller. */
export type Caller =
  | { readonly is: 'nobody' }
  | {
      readonly is: 'member'
      readonly account: string
      readonly operator: boolean
      /** Undefined when they are no member of the site in question (or none is in question). */
      readonly role: Role | undefined
      /** The locales they are limited to; undefined for no limit. */
      readonly locales?: readonly string[] | undefined
      /** The types they are limited to, by name; undefined for no limit. */
      readonly types?: readonly string[] | undefined
      /** The regions they are limited to, by name; undefined for no limit. */
      readonly regions?: readonly string[] | undefined
    }
  | { readonly is: 'key'; readonly key: string; readonly scope: KeyScope }
  /** An automation, with the rights that it was given. */
  | {
      readonly is: 'automation'
      readonly automation: string
      readonly publishes: boolean
      readonly locales?: readonly string[] | undefined
      readonly types?: readonly string[] | undefined
    }
  /** The owner of a preview grant. */
  | { readonly is: 'grant'; readonly grant: string }

export interface Decision {
  readonly allowed: boolean
  /** Why not, as a sentence. */
  readonly because?: string
}

/** The resource of a permission. Members left out are not in question. */
export interface Resource {
  /** Whether the published edition of its site may be read without a key. */
  readonly siteIsOpen?: boolean | undefined
  /** The name of the entry's type. */
  readonly type?: string | undefined
  /** The name of the entry's region; null where its type is not regional, and it belongs to all. */
  readonly region?: string | null | undefined
  /** The locales whose own values, or layers, are touched. */
  readonly locales?: readonly string[]
  /** Whether values are touched that all locales share, or the entry or file as a whole. */
  readonly shared?: boolean
  /** The account that is to be managed. */
  readonly account?: {
    readonly operator: boolean
    /** The caller's role on each site that the account is a member of; undefined where they have none. */
    readonly rolesOfCaller: readonly (Role | undefined)[]
  }
}

/** The permissions of a caller, and their limits. */
interface Powers {
  readonly permissions: ReadonlySet<Permission>
  /** Why a permission is not among them. */
  readonly lacks: (permission: Permission) => string
  readonly locales?: readonly string[] | undefined
  readonly types?: readonly string[] | undefined
  readonly regions?: readonly string[] | undefined
}

function powersOf(caller: Caller): Powers {
  switch (caller.is) {
    case 'nobody':
      return { permissions: new Set(), lacks: () => 'Sign in, or send an access key as `Authorization: Bearer …`.' }
    case 'member': {
      const { role, operator, locales, types, regions } = caller
      const own: Permission[] = ['signedIn', ...(operator ? (['operate', 'account.manage'] as const) : [])]
      const lacks = (permission: Permission): string =>
        permission === 'operate'
          ? 'Only an operator of the service may do this.'
          : role === undefined
            ? 'You are not a member of this site.'
            : `The role ${role} does not include this: ${lower(permissions[permission])}`
      return { permissions: new Set([...own, ...(role ? grantedTo[role] : [])]), lacks, locales, types, regions }
    }
    case 'key':
      return {
        permissions: opened[caller.scope],
        lacks: (permission) =>
          `An access key of scope ${caller.scope} does not include this: ${lower(permissions[permission])}`,
      }
    case 'automation':
      return {
        permissions: opened[caller.publishes ? 'edit' : 'write'],
        lacks: (permission) => `The rights of this automation do not include this: ${lower(permissions[permission])}`,
        locales: caller.locales,
        types: caller.types,
      }
    case 'grant':
      return {
        permissions: new Set(['published.read', 'draft.read']),
        lacks: () => 'A preview grant only gives the right to read drafts.',
      }
  }
}

/** The one function that decides, for every operation: may this caller do this, to this resource? */
export function decide(caller: Caller, permission: Permission, resource: Resource = {}): Decision {
  if (permission === 'anyone') return { allowed: true }
  if (permission === 'published.read' && resource.siteIsOpen) return { allowed: true }
  if (permission === 'account.manage' && resource.account) return decideAccount(caller, resource.account)
  const powers = powersOf(caller)
  if (!powers.permissions.has(permission)) return { allowed: false, because: powers.lacks(permission) }
  const because = beyondLimits(powers, permission, resource)
  return because === undefined ? { allowed: true } : { allowed: false, because }
}

/**
 * An operator manages every account. Others manage accounts whose sites they all own: otherwise an owner of one site could take
 * over an account on another.
 */
function decideAccount(caller: Caller, { operator, rolesOfCaller }: NonNullable<Resource['account']>): Decision {
  const isOwnerOfAll =
    caller.is === 'member' &&
    !operator &&
    rolesOfCaller.length > 0 &&
    rolesOfCaller.every((role) => role !== undefined && grantedTo[role].has('member.manage'))
  if (isOwnerOfAll || powersOf(caller).permissions.has('account.manage')) return { allowed: true }
  return {
    allowed: false,
    because: 'Only an operator, or somebody who owns every site that this account is a member of, may manage it.',
  }
}

/** Why a resource is outside the limits of a caller's permission. */
function beyondLimits(powers: Powers, permission: Permission, resource: Resource): string | undefined {
  const { type, region, locales = [], shared = false } = resource
  if (type !== undefined && powers.types && !powers.types.includes(type))
    return `You are limited to entries of ${powers.types.join(', ')}; this is of ${type}.`
  if (region !== undefined && powers.regions && (region === null || !powers.regions.includes(region)))
    return region === null
      ? `You are limited to the regions ${powers.regions.join(', ')}; this belongs to all regions.`
      : `You are limited to the regions ${powers.regions.join(', ')}; this is in ${region}.`
  const outside = locales.filter((locale) => powers.locales && !powers.locales.includes(locale))
  if (outside.length > 0) return `You are limited to ${powers.locales!.join(', ')}; this touches ${outside.join(', ')}.`
  if (!shared || (powers.permissions.has('entry.write') && !powers.locales)) return undefined
  if (permission === 'entry.publish' && locales.length > 0)
    return 'Shared values have changed; somebody without a limit to locales must publish them.'
  return powers.locales
    ? `You are limited to ${powers.locales.join(', ')}; this touches values that all locales share.`
    : 'This changes values that all locales share.'
}

/** The locales that a caller is limited to; undefined for no limit. */
export const limitOf = (caller: Caller): readonly string[] | undefined => powersOf(caller).locales

/** The regions that a caller is limited to; undefined for no limit. */
export const regionLimitOf = (caller: Caller): readonly string[] | undefined => powersOf(caller).regions

/** A role may give only roles below or equal to itself: nobody makes somebody more powerful than themselves. */
export const mayGrant = (by: Role, role: Role): boolean => roles.indexOf(by) <= roles.indexOf(role)

const lower = (text: string): string => text.charAt(0).toLowerCase() + text.slice(1)
