import type * as sdk from '@wisteria/client'
import type * as core from '@wisteria/core'
import { expectTypeOf, it } from 'vitest'
import type { z } from 'zod'
import type * as automationViews from './automationViews.js'
import type * as webhookViews from './webhookViews.js'
import type * as importViews from './importViews.js'
import type * as views from './editViews.js'

/*
 * The interfaces of the SDK are written for people, with the meaning of each member; the schemas describe the same answers in the
 * OpenAPI document, and a test compares every answer with those. Here the compiler compares the two.
 */

/** Without the differences of notation: readonly, and `undefined` of members that may be absent. */
type Plain<Type> = Type extends readonly (infer Item)[]
  ? Plain<Item>[]
  : Type extends object
    ? { -readonly [Key in keyof Type]: Plain<Exclude<Type[Key], undefined>> }
    : Type
type Answer<Schema extends z.ZodType> = Plain<z.output<Schema>>
/** The members of a shape that schemas are made of. */
type Shaped<Shape extends z.ZodRawShape> = Plain<z.output<z.ZodObject<Shape>>>

const same = <Promised, Described>(
  ..._same: [Described] extends [Plain<Promised>]
    ? [Plain<Promised>] extends [Described]
      ? [keyof Promised] extends [keyof Described]
        ? [keyof Described] extends [keyof Promised]
          ? []
          : [missing: Exclude<keyof Described, keyof Promised>]
        : [undescribed: Exclude<keyof Promised, keyof Described>]
      : [promised: Plain<Promised>, described: Described]
    : [described: Described, promised: Plain<Promised>]
): void => undefined

it('what the SDK promises of answers is what their schemas say', () => {
  same<core.EditableEntry, Shaped<typeof views.entryShape>>()
  same<sdk.ListedEntry, Shaped<typeof views.listedShape>>()
  same<core.PublishCheck, Answer<typeof views.check>>()
  same<core.PublishConsequences, Answer<typeof views.publishConsequences>>()
  same<core.WithdrawalConsequences, Answer<typeof views.withdrawalConsequences>>()
  same<core.Usage, Answer<typeof views.usage>>()
  same<core.RevisionView, Shaped<typeof views.revisionShape>>()
  same<core.Difference, Answer<typeof views.difference>>()
  same<core.SourceChanges, Answer<typeof views.sourceChanges>>()
  same<core.EntryCounterparts, Answer<typeof views.entryCounterparts>>()
  same<core.CounterpartList, Answer<typeof views.counterpartList>>()
  same<core.CounterpartPlan, Answer<typeof views.counterpartPlan>>()
  same<core.ScheduleView, Answer<typeof views.schedule>>()
  same<core.BulkItem, Answer<typeof views.bulkItem>>()
  same<core.ListView, Answer<typeof views.view>>()
  same<sdk.Job, Answer<typeof views.job>>()
  same<sdk.SiteView, Answer<typeof views.site>>()
  same<sdk.Asset, Answer<typeof views.asset>>()
  same<sdk.AssetRevision, Answer<typeof views.assetRevision>>()
  same<sdk.Member, Answer<typeof views.member>>()
  same<sdk.Offer, Answer<typeof views.offer>>()
  same<sdk.Session, Answer<typeof views.session>>()
  same<sdk.FrontEnd, Answer<typeof views.frontEnd>>()
  same<sdk.EntryImportView, Answer<typeof importViews.entryImport>>()
  same<sdk.EntryImportRowView, Answer<typeof importViews.importRow>>()
  same<sdk.PlannedImportRow, Answer<typeof importViews.plannedRow>>()
  same<sdk.KeptMappingView, Answer<typeof importViews.keptMapping>>()
  same<sdk.AutomationView, Answer<typeof automationViews.automation>>()
  same<sdk.AutomationChange, Answer<typeof automationViews.automationChange>>()
  same<sdk.AutomationRunView, Answer<typeof automationViews.automationRun>>()
  same<sdk.AutomationItemView, Answer<typeof automationViews.automationItem>>()
  same<sdk.AutomationTry, Answer<typeof automationViews.automationTry>>()
  same<sdk.Delivery, Answer<typeof webhookViews.delivery>>()
  same<sdk.DeliveryInFull, Answer<typeof webhookViews.deliveryInFull>>()
  same<sdk.SentOutcome & { body: core.CloudEvent }, Answer<typeof webhookViews.webhookTest>>()
  // Members that only a creating answer has, or only a list.
  same<Omit<sdk.Invitation, 'address'>, Shaped<typeof views.invitationShape>>()
  same<Omit<sdk.AccessKey, 'secret'>, Shaped<typeof views.keyShape>>()
  same<sdk.Webhook, Shaped<typeof webhookViews.webhookShape>>()
  same<sdk.WebhookBacklog, Shaped<typeof webhookViews.backlogShape>>()
  expectTypeOf<core.Point>().toEqualTypeOf<z.output<typeof views.point>>()
})
