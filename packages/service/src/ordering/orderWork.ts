import {
  makeId,
  outcomesInWords,
  titleOf,
  WisteriaError,
  type IncomingOutcome,
  type SegmentText,
  wordCount,
  wordsOf,
} from '@wisteria/core'
import {
  Act,
  actorOfConnector,
  changeOrderItem,
  connectorWithId,
  dueOrderItems,
  glossaryOf,
  nextOrderItemAt,
  publicHistoryOf,
  siteWithId,
  translationOrderItem,
  translationOrderWithId,
  workingCopyOf,
  type Connector,
  type DueOrderItem,
  type Site,
  type Transaction,
  type TranslationOrder,
  type TranslationOrderItem,
} from '@wisteria/store'
import { callerOfActor } from '../access/actors.js'
import { tryOrRefuse } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { requireMay } from '../kernel/permission.js'
import { callOut, hostOf, pauseAfter, type CallOutcome } from '../outgoing/calling.js'
import { publish, sharedDiffers } from '../publishing/publishing.js'
import { applyTexts } from '../translations/importing.js'
import { translationOfEntry } from '../translations/reading.js'
import { markReady } from '../translations/tasks.js'
import type { Author } from '../workingCopies/saving.js'
import type { Work } from '../worker/loop.js'
import { printRequest, readAnswer, returnedTexts, sentOf, type ConnectorAnswer, type SentEntry } from './exchange.js'
import { tellOrder, whyNoLonger } from './ordering.js'

type Item = TranslationOrderItem<SentEntry>

/** How many calls run to one address at once. */
const perAddress = 4
/** After so many attempts that failed, one after the other, an entry has failed. */
const maxAttempts = 6
/** How long a translation is waited for, in milliseconds. */
const longestWait = 14 * 86_400_000
/** The pauses between two questions for a translation, in milliseconds, where the connector names none. */
const firstPause = 2_000
const longestPause = 300_000
/** The most characters of an answer. */
const maxAnswer = 20_000_000

/**
 * Sends the entries of orders to their connectors, asks for what is not there yet, and takes the translations. Each entry is a request
 * of its own: one that fails holds up no other.
 */
export class OrderWork implements Work<DueOrderItem> {
  readonly name = 'translation orders'
  readonly atOnce = 16
  readonly #kernel: Kernel
  /** Running calls by address. */
  readonly #open = new Map<string, number>()

  constructor(kernel: Kernel) {
    this.#kernel = kernel
  }

  keyOf({ id }: DueOrderItem): string {
    return id
  }

  async due(most: number, skipped: readonly string[]): Promise<DueOrderItem[]> {
    const { database, at } = this.#kernel
    const taken = new Map(this.#open)
    return (await dueOrderItems(database, at, most * perAddress, skipped))
      .filter(({ address }) => {
        const count = taken.get(hostOf(address)) ?? 0
        taken.set(hostOf(address), count + 1)
        return count < perAddress
      })
      .slice(0, most)
  }

  async next(skipped: readonly string[]): Promise<number | undefined> {
    const at = await nextOrderItemAt(this.#kernel.database, skipped)
    if (at === undefined) return undefined
    // One that waits for another of the same entry, or for a place, is looked at again when that is done.
    return Math.max(Date.parse(at), this.#kernel.now + 250)
  }

  async run({ id, address }: DueOrderItem): Promise<void> {
    const host = hostOf(address)
    this.#open.set(host, (this.#open.get(host) ?? 0) + 1)
    try {
      await this.#carryOn(id)
    } finally {
      const open = this.#open.get(host)! - 1
      if (open === 0) this.#open.delete(host)
      else this.#open.set(host, open)
    }
  }

  async giveUp({ id }: DueOrderItem): Promise<void> {
    await this.#change(id, () => ({
      state: 'failed' as const,
      nextAt: null,
      message: 'It failed several times with an unexpected error; the log of the service has it.',
    }))
  }

  /** Sends an entry, or asks for its translation. */
  async #carryOn(id: string): Promise<void> {
    const { database } = this.#kernel
    const item = await translationOrderItem<SentEntry>(database, id)
    const order = item && (await translationOrderWithId(database, item.order))
    const connector = order && (await connectorWithId(database, order.connector))
    if (!item || !order || !connector || item.nextAt === null) return
    const site = await siteWithId(database, order.site)
    const outcome =
      item.state === 'waiting' ? await this.#send(site, connector, item) : await this.#ask(connector, item)
    if (outcome) await this.#answered(connector, id, outcome)
  }

  async #send(site: Site, connector: Connector, item: Item): Promise<CallOutcome | undefined> {
    const kernel = this.#kernel
    const { database, baseUrl } = kernel
    const copy = await workingCopyOf(database, site, item.entry)
    if (!copy || copy.archivedAt !== null)
      return this.#end(item.id, 'failed', copy ? 'The entry is archived.' : 'The entry is no longer there.')
    const translation = await translationOfEntry(database, site, copy, item.locale, 'todo')
    const sent = sentOf(translation, item.sent, () => makeId(kernel.environment))
    if (sent.texts.length === 0) return this.#end(item.id, 'done', 'There is nothing left to translate.')
    const { terms } = await glossaryOf(database, site)
    const body = printRequest(translation, terms, {
      request: sent.request,
      site: site.name,
      address: `${baseUrl}/console/${site.name}/entry/${copy.id}?locale=${item.locale}`,
      callback: `${baseUrl}/edit/v1/sites/${site.name}/translations/requests/${item.id}`,
    })
    // What is sent is written first: an answer that comes back after a crash still finds it.
    await this.#change(item.id, () => ({
      sent,
      sentAt: kernel.at,
      texts: sent.texts.length,
      words: sent.texts.reduce(
        (sum, { source }) => sum + wordCount(wordsOf(source as SegmentText), translation.source),
        0,
      ),
      title: item.title || titleOf(copy.type, copy.document, [translation.source]),
    }))
    return callOut(kernel, {
      address: connector.address,
      method: 'POST',
      secrets: [connector.secret],
      id: sent.request,
      type: 'application/json; charset=utf-8',
      body: JSON.stringify(body),
      answerKept: maxAnswer,
    })
  }

  #ask(connector: Connector, { sent }: Item): Promise<CallOutcome> {
    return callOut(this.#kernel, {
      address: addressOfRequest(connector, sent!.request),
      method: 'GET',
      secrets: [connector.secret],
      id: sent!.request,
      answerKept: maxAnswer,
    })
  }

  async #answered(connector: Connector, id: string, outcome: CallOutcome): Promise<void> {
    const { status, answer, error, isCut } = outcome
    if (status === null) return this.#failed(id, `${connector.label} cannot be reached: ${error}.`)
    if (status >= 400 || status < 200) {
      const read = readAnswer(answer)
      const why = typeof read !== 'string' && read.state === 'failed' ? ` ${read.message}` : ''
      const message = `${connector.label} answered ${status}.${why}`
      // It will not take it another time either, but for what says “later”.
      return status < 500 && status !== 429 && status !== 408
        ? void (await this.#end(id, 'failed', message))
        : this.#failed(id, message)
    }
    if (isCut) return void (await this.#end(id, 'failed', `The answer of ${connector.label} is too long.`))
    const read = readAnswer(answer)
    if (typeof read === 'string') return this.#failed(id, `${connector.label} answered ${status}. ${read}`)
    await this.#take(connector, id, read)
  }

  async #take(connector: Connector, id: string, answer: ConnectorAnswer): Promise<void> {
    const kernel = this.#kernel
    if (answer.state === 'failed')
      return void (await this.#end(id, 'failed', `${connector.label} could not translate it: ${answer.message}`))
    if (answer.state === 'done')
      return kernel.write((transaction) => takeResult(kernel, transaction, connector, id, answer.texts))
    await this.#change(id, (item) => {
      const waited = kernel.now - Date.parse(item.sentAt ?? kernel.at)
      if (waited > longestWait)
        return {
          state: 'failed',
          nextAt: null,
          message: `${connector.label} has not translated it within ${longestWait / 86_400_000} days.`,
        }
      const own = Math.min(Math.max(firstPause, waited / 4), longestPause)
      const pause = answer.retryAfter === undefined ? own : Math.max(answer.retryAfter * 1000, 250)
      return { state: 'sent', attempts: 0, nextAt: new Date(kernel.now + pause).toISOString(), message: '' }
    })
  }

  /** An attempt that failed: it is made again, but for the last. */
  async #failed(id: string, message: string): Promise<void> {
    await this.#change(id, ({ attempts }) =>
      attempts + 1 >= maxAttempts
        ? { state: 'failed', attempts: attempts + 1, nextAt: null, message }
        : {
            attempts: attempts + 1,
            message,
            nextAt: new Date(this.#kernel.now + pauseAfter(attempts + 1, Math.random())).toISOString(),
          },
    )
  }

  async #end(id: string, state: 'done' | 'failed', message: string): Promise<undefined> {
    await this.#change(id, () => ({ state, nextAt: null, message }))
    return undefined
  }

  /** Records how an item stands, unless its order was stopped meanwhile. */
  #change(id: string, change: (item: Item) => Parameters<typeof changeOrderItem>[2]): Promise<void> {
    const kernel = this.#kernel
    return kernel.write(async (transaction) => {
      const item = await translationOrderItem<SentEntry>(transaction, id)
      if (item?.state === 'waiting' || item?.state === 'sent') await record(kernel, transaction, item, change(item))
    })
  }
}

/**
 * A connector says that a translation is there: it is asked for at once. One that failed before is as welcome.
 * @throws WisteriaError `conflict` where it is no longer waited for.
 */
export async function answerIsThere(
  kernel: Kernel,
  transaction: Transaction,
  item: TranslationOrderItem,
): Promise<void> {
  if (item.state === 'done') return
  if (item.state === 'stopped' || item.sent === null)
    throw new WisteriaError('conflict', 'This translation is no longer waited for.')
  const change = { state: 'sent', attempts: 0, nextAt: kernel.at } as const
  await record(kernel, transaction, item as Item, change)
}

/** Where a connector is asked for a request. */
const addressOfRequest = ({ address }: Connector, id: string): string => `${address.replace(/\/+$/, '')}/${id}`

/** Tells a connector that requests are no longer waited for. Its answer does not matter. */
export async function withdrawRequests(kernel: Kernel, connector: Connector, ids: readonly string[]): Promise<void> {
  for (const id of ids)
    await callOut(kernel, {
      address: addressOfRequest(connector, id),
      method: 'DELETE',
      secrets: [connector.secret],
      id,
      answerKept: 0,
    })
}

/** Records how an item stands, and tells how far its order is: at every tenth, and at its end. */
async function record(
  kernel: Kernel,
  transaction: Transaction,
  item: Item,
  change: Parameters<typeof changeOrderItem>[2],
): Promise<void> {
  const before = (await translationOrderWithId(transaction, item.order))!
  const order = await changeOrderItem(transaction, item, change, kernel.at)
  const tenth = ({ done, failed, total }: TranslationOrder): number => Math.floor((10 * (done + failed)) / total)
  const hasEnded = order.state === 'done' && before.state === 'running'
  if (!hasEnded && tenth(order) === tenth(before)) return
  const site = await siteWithId(transaction, order.site)
  const connector = (await connectorWithId(transaction, order.connector))!
  const act = new Act(transaction, site, actorOfConnector(connector.id), kernel.environment)
  await tellOrder(act, hasEnded ? 'translation.orderEnded' : 'translation.orderProgressed', connector, order)
}

/**
 * Takes a translation that came back: as a draft that is ready for review, or published where the order says so. What somebody else
 * has written meanwhile stays.
 */
async function takeResult(
  kernel: Kernel,
  transaction: Transaction,
  connector: Connector,
  id: string,
  texts: readonly { readonly id: string; readonly text: string }[],
): Promise<void> {
  const item = await translationOrderItem<SentEntry>(transaction, id)
  // A late answer to a request that failed is as good as any; one that is taken, or no longer wanted, is not taken again.
  if (!item?.sent || item.state === 'done' || item.state === 'stopped') return
  const order = (await translationOrderWithId(transaction, item.order))!
  const site = await siteWithId(transaction, order.site)
  // The rights of who ordered it, in the name of the connector.
  const author = { caller: await callerOfActor(kernel, order.actor, site), actor: actorOfConnector(connector.id) }
  const { texts: returned, faults } = returnedTexts(item.sent, texts)
  const { entry, sent } = item
  const decided = await tryOrRefuse(transaction, () => {
    requireMay(author.caller, 'entry.translate', { locales: [order.locale] })
    const item = { entry, revision: sent.revision, texts: returned }
    return applyTexts(kernel, transaction, site, author, order.locale, item, false)
  })
  if (decided instanceof WisteriaError)
    return record(kernel, transaction, item, { state: 'failed', nextAt: null, message: whyNoLonger(decided) })
  const outcomes: Partial<Record<IncomingOutcome, number>> = {}
  for (const { outcome } of decided) outcomes[outcome] = (outcomes[outcome] ?? 0) + 1
  const refused = decided.flatMap(({ outcome, message }) => (outcome === 'faulty' ? [message] : []))
  const isTaken = (outcomes.taken ?? 0) + (outcomes.takenOutdated ?? 0) > 0
  const after = isTaken ? await publishOrReview(kernel, transaction, site, author, order, entry) : ''
  const message = [`${capital(outcomesInWords(outcomes))}.`, ...faults, ...refused, after].filter(Boolean).join(' ')
  const nothing = !isTaken && faults.length + refused.length > 0
  await record(kernel, transaction, item, {
    state: nothing ? 'failed' : 'done',
    attempts: 0,
    nextAt: null,
    outcomes,
    message,
  })
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1)

/** @returns the result, in a sentence. */
async function publishOrReview(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  { locale, publishes }: TranslationOrder,
  entry: string,
): Promise<string> {
  const copy = (await workingCopyOf(transaction, site, entry))!
  const published = publishes
    ? await tryOrRefuse(transaction, async () => {
        const history = await publicHistoryOf(transaction, site, copy.type, copy.id)
        if (sharedDiffers(site, copy, history))
          throw new WisteriaError('conflict', 'Shared values have changes that nobody has published.')
        const act = new Act(transaction, site, author.actor, kernel.environment)
        await publish(transaction, act, author, copy, [locale])
      })
    : undefined
  if (publishes && !(published instanceof WisteriaError)) return 'Published.'
  // Where the right for it is missing, it is a draft all the same.
  await tryOrRefuse(transaction, () => markReady(kernel, transaction, site, author, copy, locale, true))
  return published ? `Ready for review, and not published: ${whyNoLonger(published)}` : 'Ready for review.'
}
