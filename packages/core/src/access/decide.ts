/** Roles of a member of a site, most powerful first. */
export const roles = ['owner', 'developer', 'editor', 'translator', 'viewer'] as const
export type Role = (typeof roles)[number]

export const keyScopes = ['published', 'draft', 'edit'] as const
export type KeyScope = (typeof keyScopes)[number]

/** Everything that can be asked for, with what it lets somebody do. */
export const permissions = {
  anyone: 'Nothing secret: open to everybody.',
  signedIn: 'Somebody who is signed in, whatever their sites.',
  'published.read': 'Read the published edition.',
  'draft.read': 'Read working copies and their history.',
  'entry.write': 'Create and change entries, and delete what is not public.',
  'entry.translate': 'Change the values of locales, not the shared ones.',
  'entry.publish': 'Publish and unpublish, now or at a time; archive.',
  'model.read': 'Read the model and the settings.',
  'model.change': 'Adopt another model; change locales and the time zone.',
  'integration.manage': 'Manage access keys, front ends and webhooks; read the event log.',
  'member.read': 'See who the members are.',
  'member.manage': 'Invite, change and remove members.',
  operate: 'Operate the service: sites, accounts, rebuilding.',
} as const
export type Permission = keyof typeof permissions

const viewer: Permission[] = ['published.read', 'draft.read', 'model.read', 'member.read']
const translator: Permission[] = [...viewer, 'entry.translate']
const editor: Permission[] = [...translator, 'entry.write', 'entry.publish']
const developer: Permission[] = [...editor, 'model.change', 'integration.manage']

const grantedTo: Record<Role, ReadonlySet<Permission>> = {
  viewer: new Set(viewer),
  translator: new Set(translator),
  editor: new Set(editor),
  developer: new Set(developer),
  owner: new Set([...developer, 'member.manage']),
}

const opened: Record<KeyScope, ReadonlySet<Permission>> = {
  published: new Set(['published.read']),
  draft: new Set(['published.read', 'draft.read', 'model.read']),
  edit: new Set(['published.read', 'draft.read', 'model.read', 'entry.translate', 'entry.write', 'entry.publish']),
}

/** Who asks. */
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
    }
  | { readonly is: 'key'; readonly key: string; readonly scope: KeyScope }
  /** Somebody with a preview grant. */
  | { readonly is: 'grant'; readonly grant: string }

export interface Decision {
  readonly allowed: boolean
  /** Why not, as a sentence. */
  readonly because?: string
}

/**
 * The one function that decides. `siteIsOpen` says that the published edition may be read without a key.
 */
export function decide(caller: Caller, permission: Permission, siteIsOpen = false): Decision {
  if (permission === 'anyone') return { allowed: true }
  if (permission === 'published.read' && siteIsOpen) return { allowed: true }
  switch (caller.is) {
    case 'nobody':
      return { allowed: false, because: 'Sign in, or send an access key as `Authorization: Bearer …`.' }
    case 'member': {
      if (permission === 'signedIn') return { allowed: true }
      if (permission === 'operate')
        return caller.operator
          ? { allowed: true }
          : { allowed: false, because: 'Only an operator of the service may do this.' }
      if (caller.role === undefined) return { allowed: false, because: 'You are not a member of this site.' }
      if (grantedTo[caller.role].has(permission)) return { allowed: true }
      return {
        allowed: false,
        because: `The role ${caller.role} does not include this: ${lower(permissions[permission])}`,
      }
    }
    case 'key':
      if (opened[caller.scope].has(permission)) return { allowed: true }
      return {
        allowed: false,
        because: `An access key of scope ${caller.scope} does not include this: ${lower(permissions[permission])}`,
      }
    case 'grant':
      if (permission === 'published.read' || permission === 'draft.read') return { allowed: true }
      return { allowed: false, because: 'A preview grant only lets somebody read drafts.' }
  }
}

/** What a save or a publish touches: locales, and whether shared values are among it. */
export interface Touch {
  readonly locales: readonly string[]
  readonly shared: boolean
}

/** Whether a caller who may write at all may write there. */
export function decideTouch(caller: Caller, touch: Touch, act: 'change' | 'publish'): Decision {
  if (caller.is !== 'member') return { allowed: true }
  const outside = touch.locales.filter((locale) => caller.locales && !caller.locales.includes(locale))
  if (outside.length > 0)
    return {
      allowed: false,
      because: `You are limited to ${caller.locales!.join(', ')}; this touches ${outside.join(', ')}.`,
    }
  if (touch.shared && (caller.role === 'translator' || caller.locales)) {
    const because =
      act === 'change'
        ? 'This changes values that all locales share.'
        : 'Values that all locales share have changed; somebody without a limit must publish them.'
    return { allowed: false, because }
  }
  return { allowed: true }
}

/** A role may give out only what it has: nobody makes somebody more powerful than themselves. */
export const mayGrant = (by: Role, role: Role): boolean => roles.indexOf(by) <= roles.indexOf(role)

const lower = (text: string): string => text.charAt(0).toLowerCase() + text.slice(1)
