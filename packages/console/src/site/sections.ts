import { decide, type Caller, type Permission } from '@wisteria/core'
import { t } from '../messages'

/** A section of the settings: its address, and the rights that it needs. */
interface Section {
  readonly route:
    | 'locales'
    | 'front-ends'
    | 'members'
    | 'keys'
    | 'webhooks'
    | 'automations'
    | 'connectors'
    | 'copy'
    | 'archive'
    | 'sites'
  readonly label: string
}

/** The sections that the user may see, in their order. */
export function sectionsFor(caller: Caller): Section[] {
  const all: readonly (Section & { readonly needs: Permission })[] = [
    { route: 'locales', label: t('settings.site'), needs: 'model.read' },
    { route: 'front-ends', label: t('settings.frontEnds'), needs: 'integration.manage' },
    { route: 'members', label: t('settings.members'), needs: 'member.read' },
    { route: 'keys', label: t('settings.keys'), needs: 'integration.manage' },
    { route: 'webhooks', label: t('settings.webhooks'), needs: 'integration.manage' },
    { route: 'automations', label: t('settings.automations'), needs: 'integration.manage' },
    { route: 'connectors', label: t('settings.connectors'), needs: 'integration.manage' },
    { route: 'copy', label: t('settings.copy'), needs: 'model.change' },
    { route: 'archive', label: t('settings.archive'), needs: 'site.archive' },
    { route: 'sites', label: t('settings.sites'), needs: 'signedIn' },
  ]
  return all.filter(({ needs }) => decide(caller, needs).allowed)
}

/** The routes of all sections. */
export const sectionRoutes: readonly string[] = [
  'locales',
  'front-ends',
  'members',
  'keys',
  'webhooks',
  'webhook',
  'automations',
  'automation',
  'automation-new',
  'connectors',
  'copy',
  'archive',
  'sites',
]
