import { forms, kinds, problems } from './problems'
import { common, states, times, values } from './common'
import { shell, lastActs, goTo, signIn, setUp, account } from './shell'
import { assets } from './assets'
import { controls, conditions } from './controls'
import { entry, saving, conflict, preview, history } from './entry'
import { publishing, removal, schedules, today } from './publishing'
import { lists, bulk, bin, tree } from './lists'
import { translating } from './translating'
import { ordering } from './ordering'
import { archive } from './archive'
import { copying } from './copying'
import { regions } from './regions'
import { model, options } from './model'
import { api, query } from './query'
import { site } from './site'
import { settings, roles, reading, members, invitation, keys, frontEnds, sites, firstSteps } from './settings'
import { imports } from './imports'
import { automations } from './automations'
import { webhooks } from './webhooks'

/** Every text of the console in Dutch, by room. Braces hold parameters; `|` separates the forms of a plural, chosen by `n`. */
export const nl = {
  common,
  states,
  times,
  values,
  shell,
  lastActs,
  goTo,
  signIn,
  setUp,
  account,
  assets,
  controls,
  conditions,
  entry,
  saving,
  conflict,
  preview,
  history,
  publishing,
  removal,
  schedules,
  today,
  lists,
  bulk,
  bin,
  tree,
  translating,
  ordering,
  archive,
  copying,
  regions,
  model,
  options,
  query,
  api,
  site,
  settings,
  roles,
  reading,
  members,
  invitation,
  keys,
  frontEnds,
  imports,
  webhooks,
  automations,
  sites,
  firstSteps,
  problems,
  forms,
  kinds,
} as const
