import type { Block, Card, Lists, Notice, Page, Picture, VisitorInfo } from './answers.js'
import { Html, html } from './html.js'
import { homes, localeNames, wordsOf, type Words } from './words.js'

export interface Frame {
  readonly locale: string
  /** The locale of the page's content, where it falls back to another one. */
  readonly contentLocale?: string
  readonly menu: readonly Card[]
  readonly paths: Page['paths']
  readonly visitorInfo?: VisitorInfo | null
  readonly notices?: readonly Notice[]
  /** Set while drafts are shown: where leaving leads, and where the console that may ask for a reload is. */
  readonly preview?: { readonly leave: string; readonly console: string }
}

const paragraphs = (text: string | null | undefined): Html[] =>
  (text ?? '')
    .split(/\n{2,}/)
    .filter(Boolean)
    .map(
      (part) =>
        html`<p>${new Html(html`${part}`.text.replaceAll('\n', '<br>').replace(/\*([^*<]+)\*/g, '<em>$1</em>'))}</p>`,
    )

const picture = (shown: Picture | null | undefined): Html | null =>
  shown
    ? html`<img
        src="${shown.address}"
        alt="${shown.alt ?? ''}"
        width="${shown.width ?? ''}"
        height="${shown.height ?? ''}"
        loading="lazy"
      />`
    : null

const day = (text: string, locale: string): Html =>
  html`<time datetime="${text}"
    >${new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' }).format(new Date(`${text}T12:00:00Z`))}</time
  >`

const moment = (text: string, locale: string): Html =>
  html`<time datetime="${text}"
    >${new Intl.DateTimeFormat(locale, { weekday: 'short', day: 'numeric', month: 'long', year: 'numeric', hour: '2-digit', minute: '2-digit', timeZone: 'Europe/Amsterdam' }).format(new Date(text))}</time
  >`

const price = (amount: number | null | undefined, locale: string, words: Words): string | null =>
  amount === null || amount === undefined
    ? null
    : amount === 0
      ? words.free
      : new Intl.NumberFormat(locale, { style: 'currency', currency: 'EUR' }).format(amount)

const link = (card: Card | null | undefined, text?: string): Html | null => {
  if (!card) return null
  const label = text ?? card.title ?? card.name ?? ''
  return card.path ? html`<a href="${card.path}">${label}</a>` : html`<span>${label}</span>`
}

type Fact = Html | string | null | undefined | false

/** The existing ones of some facts, with a separator between two. */
const joined = (parts: readonly Fact[]): Html[] =>
  parts.filter(Boolean).map((part, index) => html`${index > 0 && ' · '}${part}`)

function dates(card: Card, locale: string, words: Words): Html | null {
  if (!card.starts) return null
  if (card.ends) return html`${day(card.starts, locale)} – ${day(card.ends, locale)}`
  return html`${words.from} ${day(card.starts, locale)}, ${words.permanent}`
}

const activityFacts = (card: Card, locale: string, words: Words): Fact[] => [
  words.formats[card.format ?? ''],
  card.starts && moment(card.starts, locale),
  card.minutes ? `${card.minutes} ${words.minutes}` : null,
  price(card.price, locale, words),
  card.forFamilies && words.forFamilies,
]

/** Lists below a page, each under its heading when the page has words of its own. */
function lists(results: Lists, locale: string, words: Words, headed: boolean): Html[] {
  const section = (title: string, content: readonly Html[], kind: string) =>
    content.length > 0
      ? html`<section class="list ${kind}">
          ${headed && html`<h2>${title}</h2>`}
          <ul>
            ${content}
          </ul>
        </section>`
      : html``
  return [
    section(
      words.museums,
      (results.museums?.nodes ?? []).map(
        (card) =>
          html`<li>
            ${picture(card.picture)}
            <h3>${link(card)}</h3>
            <p class="facts">${card.town}</p>
            <p>${card.summary}</p>
          </li>`,
      ),
      'cards three',
    ),
    section(
      words.onShow,
      (results.exhibitions?.nodes ?? []).map(
        (card) =>
          html`<li>
            ${picture(card.picture)}
            <h3>${link(card)}</h3>
            <p class="facts">${joined([dates(card, locale, words), link(card.museum)])}</p>
            <p>${card.summary}</p>
          </li>`,
      ),
      'cards',
    ),
    section(
      words.whatsOn,
      (results.activities?.nodes ?? []).map(
        (card) =>
          html`<li>
            <h3>${link(card)}</h3>
            <p class="facts">${joined(activityFacts(card, locale, words))}</p>
            <p>${card.summary} ${link(card.museum)}</p>
          </li>`,
      ),
      'rows',
    ),
    section(
      words.collection,
      (results.artefacts?.nodes ?? []).map(
        (card) =>
          html`<li>
            <h3>${link(card)}</h3>
            <p class="facts">${joined([card.inventory, card.made ? String(card.made) : null])}</p>
          </li>`,
      ),
      'rows',
    ),
    section(
      '',
      (results.people?.nodes ?? []).map(
        (card) =>
          html`<li>
            <h3>${link(card)}</h3>
            <p class="facts">${card.role}</p>
          </li>`,
      ),
      'rows',
    ),
    section(
      words.below,
      (results.pages?.nodes ?? []).map(
        (card) =>
          html`<li>
            <h3>${link(card)}</h3>
            <p>${card.summary}</p>
          </li>`,
      ),
      'rows',
    ),
  ]
}

function block(content: Block, locale: string): Html | null {
  switch (content.__typename) {
    case 'HeadingBlock':
      return html`<h2>${content.heading}</h2>`
    case 'TextBlock':
      return html`${paragraphs(content.paragraphs)}`
    case 'PictureBlock':
      return html`<figure>
        ${picture(content.file)}${content.caption && html`<figcaption>${content.caption}</figcaption>`}
      </figure>`
    case 'QuoteBlock':
      return html`<blockquote>
        ${paragraphs(content.quote)}${content.by && html`<footer>${content.by}</footer>`}
      </blockquote>`
    case 'GalleryBlock':
      return html`<figure>
        ${(content.pictures ?? []).map(picture)}${content.caption && html`<figcaption>${content.caption}</figcaption>`}
      </figure>`
    case 'CallToActionBlock':
      return content.to?.path ? html`<p><a class="call" href="${content.to.path}">${content.label}</a></p>` : null
    case 'LatestBlock':
      return (content.listed ?? []).length > 0
        ? html`<section class="latest">
            ${content.listTitle && html`<h2>${content.listTitle}</h2>`}
            <ul>
              ${content.listed!.map((card) => html`<li>${link(card)}${card.starts && html` <small>${moment(card.starts, locale)}</small>`}${card.begins && html` <small>${day(card.begins, locale)}</small>`}</li>`)}
            </ul>
          </section>`
        : null
    default:
      return null
  }
}

export function renderPage(page: Page, results: Lists, frame: Frame): string {
  const words = wordsOf(frame.locale)
  const { locale } = frame
  const facts: Html[] =
    page.type === 'activity'
      ? joined([...activityFacts(page, locale, words), link(page.museum), link(page.exhibition)])
      : page.type === 'exhibition'
        ? joined([dates(page, locale, words), price(page.price, locale, words), link(page.museum)])
        : page.type === 'museum'
          ? joined([page.town, page.stepFree === null ? null : page.stepFree ? words.stepFree : words.notStepFree])
          : page.type === 'artefact'
            ? joined([
                page.inventory,
                page.made ? String(page.made) : null,
                page.onLoan && page.loan?.to ? `${words.onLoan} ${page.loan.to}` : link(page.museum),
              ])
            : joined([page.role, link(page.inPage)])
  const people = page.curators ?? page.speakers ?? page.makers ?? []
  const title = page.title ?? page.name ?? ''
  const article = html`<article class="${page.type}">
      <h1>${title}</h1>
      ${facts.length > 0 && html`<p class="facts">${facts}</p>`}
      ${page.summary && html`<p class="lead">${page.summary}</p>`} ${picture(page.picture)}
      ${page.story && new Html(page.story.html)}
      ${
        page.openingHours &&
        html`<section class="hours">
          <h2>${words.openingHours}</h2>
          ${paragraphs(page.openingHours)}
        </section>`
      }
      ${paragraphs(page.bio)}${(page.body ?? []).map((content) => block(content, locale))}
      ${people.length > 0 && html`<p class="people">${words.with} ${joined(people.map((person) => html`${link(person)}${person.role && html` <small>${person.role}</small>`}`))}</p>`}
    </article>
    ${lists(results, locale, words, page.shows === 'home' || page.type !== 'page')}`
  return shell(title, article, frame)
}

export function renderNothing(frame: Frame): string {
  const words = wordsOf(frame.locale)
  return shell(
    words.nothingHere,
    html`<article>
      <h1>${words.nothingHere}</h1>
      <p class="lead">${words.nothingHereLong}</p>
      <p><a href="${homes[frame.locale] ?? '/'}">${words.home}</a></p>
    </article>`,
    frame,
  )
}

export function renderTrouble(): string {
  const frame: Frame = { locale: 'en', menu: [], paths: [] }
  return shell(
    'Out at sea',
    html`<article>
      <h1>Out at sea</h1>
      <p class="lead">The museums cannot be reached just now. Try again in a moment.</p>
    </article>`,
    frame,
  )
}

const direction = (locale: string): 'rtl' | 'ltr' => (locale.startsWith('ar') ? 'rtl' : 'ltr')

/** How to reach the museums, at the foot of every page. */
function reach({ claim, contact, openingHours }: VisitorInfo): Html {
  return html`<div class="reach">
    <p>${joined([claim, contact.phone, contact.mail && html`<a href="mailto:${contact.mail}">${contact.mail}</a>`])}</p>
    <ul>
      ${openingHours.map((hours) => html`<li>${link(hours.museum)} ${hours.from}–${hours.to}${hours.note && html`, ${hours.note}`}</li>`)}
    </ul>
  </div>`
}

function shell(title: string, content: Html, frame: Frame): string {
  const { locale, contentLocale = locale, menu, paths, preview, visitorInfo, notices } = frame
  const words = wordsOf(locale)
  const others = paths.filter((path) => path.locale !== locale)
  return html`<!doctype html>
    <html lang="${locale}" dir="${direction(locale)}">
      <head>
        <meta charset="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>${title === words.home ? title : `${title} · ${words.home}`}</title>
        <link rel="stylesheet" href="/site.css" />
        <link rel="icon" href="/pictures/icon.svg" type="image/svg+xml" />
        ${paths.filter((path) => path.contentLocale === path.locale).map((path) => html`<link rel="alternate" hreflang="${path.locale}" href="${path.path}" />`)}
        ${
          preview &&
          html`<meta name="robots" content="noindex" />
            <script src="/preview.js" data-console="${preview.console}" defer></script>`
        }
      </head>
      <body>
        ${
          preview &&
          html`<form class="preview" method="post" action="/preview/leave">
            <input type="hidden" name="to" value="${preview.leave}" />
            <p>You see drafts. Others see what is public.</p>
            <button>Leave preview</button>
          </form>`
        }
        <header>
          <a class="name" href="${homes[locale] ?? '/'}">${words.home}</a>
          <nav>${menu.filter((page) => page.path !== homes[locale]).map((page) => link(page))}</nav>
        </header>
        ${(notices ?? []).filter((notice) => notice.text).map((notice) => html`<p class="notice" role="note">${notice.museum && html`${link(notice.museum)}: `}${notice.text}</p>`)}
        <main lang="${contentLocale}" dir="${direction(contentLocale)}">${content}</main>
        <footer>
          ${visitorInfo && reach(visitorInfo)}
          <p>${words.invented}</p>
          ${others.length > 0 && html`<nav aria-label="${words.languages}">${others.map((other) => html`<a href="${other.path}" lang="${other.locale}" hreflang="${other.locale}">${localeNames[other.locale]}</a>`)}</nav>`}
        </footer>
      </body>
    </html>`.text
}
