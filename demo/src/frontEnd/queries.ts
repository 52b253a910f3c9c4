/** GraphQL, as any front end would write it against this model. */

const fragments: Readonly<Record<string, string>> = {
  Head: 'fragment Head on Entry { entryId type locale contentLocale path state paths { locale path contentLocale } }',
  ExhibitionCard:
    'fragment ExhibitionCard on Exhibition { entryId type path title summary picture { address alt width height } starts ends museum { name path town } }',
  ActivityCard:
    'fragment ActivityCard on Activity { entryId type path title summary format starts minutes price forFamilies museum { name path town } }',
  MuseumCard:
    'fragment MuseumCard on Museum { entryId type path name town summary picture { address alt width height } }',
  ArtefactCard:
    'fragment ArtefactCard on Artefact { entryId type path title inventory made picture { address alt width height } museum { name path } }',
  PersonCard: 'fragment PersonCard on Person { entryId type path name role }',
}

const body = `
  body {
    __typename
    ... on HeadingBlock { id heading: text }
    ... on TextBlock { id paragraphs: text }
    ... on PictureBlock { id file { address alt width height } caption }
    ... on QuoteBlock { id quote: text by }
    ... on CallToActionBlock { id label to { ... on Entry { path } } }
    ... on LatestBlock { id listTitle: title listed: entries { ... on Entry { path } ... on Activity { title starts } ... on Exhibition { title begins: starts } ... on Artefact { title } } }
    ... on GalleryBlock { id pictures { address alt width height } caption }
  }`

/** A query with the fragments that it uses. */
const query = (text: string): string =>
  [
    text,
    ...Object.entries(fragments).flatMap(([name, fragment]) => (text.includes(`...${name}`) ? [fragment] : [])),
  ].join('\n')

/** The fields for the page of an entry, by type. */
export const pageQueries: Readonly<Record<string, string>> = {
  museum: query(`
    query Museum($id: String!, $locale: String!, $edition: Edition!) {
      entry: museum(id: $id, locale: $locale, edition: $edition) { ...Head name town summary picture { address alt width height } openingHours opened stepFree ${body} }
      exhibitions(where: { museum: { is: $id } }, sort: ["-starts"], first: 20, locale: $locale, edition: $edition) { nodes { ...ExhibitionCard } }
      activities(where: { museum: { is: $id }, starts: { atLeast: "today" } }, sort: ["starts"], first: 6, locale: $locale, edition: $edition) { nodes { ...ActivityCard } }
      artefacts(where: { museum: { is: $id } }, sort: ["inventory"], first: 12, locale: $locale, edition: $edition) { nodes { ...ArtefactCard } }
    }`),
  artefact: query(`
    query Artefact($id: String!, $locale: String!, $edition: Edition!) {
      entry: artefact(id: $id, locale: $locale, edition: $edition) { ...Head title inventory made picture { address alt width height } story { html } onLoan loan { to until } museum { ...MuseumCard } makers { ...PersonCard } }
    }`),
  exhibition: query(`
    query Exhibition($id: String!, $locale: String!, $edition: Edition!) {
      entry: exhibition(id: $id, locale: $locale, edition: $edition) { ...Head title summary picture { address alt width height } starts ends price museum { ...MuseumCard } curators { ...PersonCard } ${body} }
      activities(where: { exhibition: { is: $id } }, sort: ["starts"], first: 20, locale: $locale, edition: $edition) { nodes { ...ActivityCard } }
    }`),
  activity: query(`
    query Activity($id: String!, $locale: String!, $edition: Edition!) {
      entry: activity(id: $id, locale: $locale, edition: $edition) { ...Head title summary format starts minutes price forFamilies museum { ...MuseumCard } exhibition { ...ExhibitionCard } speakers { ...PersonCard } ${body} }
    }`),
  person: query(`
    query Person($id: String!, $locale: String!, $edition: Edition!) {
      entry: person(id: $id, locale: $locale, edition: $edition) { ...Head name role bio }
      activities(where: { speakers: { is: $id } }, sort: ["starts"], first: 20, locale: $locale, edition: $edition) { nodes { ...ActivityCard } }
      exhibitions(where: { curators: { is: $id } }, sort: ["-starts"], first: 20, locale: $locale, edition: $edition) { nodes { ...ExhibitionCard } }
    }`),
  page: query(`
    query Page($id: String!, $locale: String!, $edition: Edition!) {
      entry: page(id: $id, locale: $locale, edition: $edition) { ...Head title summary shows inPage { path title } ${body} }
      pages(where: { inPage: { is: $id } }, sort: ["place", "title"], first: 20, locale: $locale, edition: $edition) { nodes { entryId path title summary } }
    }`),
}

/** The query of a page's own list, by its `shows`. */
export const listQueries: Readonly<Record<string, string>> = {
  home: query(`
    query Home($locale: String!, $edition: Edition!) {
      museums(sort: ["opened"], locale: $locale, edition: $edition) { nodes { ...MuseumCard } }
      exhibitions(sort: ["-starts"], first: 4, locale: $locale, edition: $edition) { nodes { ...ExhibitionCard } }
      activities(where: { starts: { atLeast: "today" } }, sort: ["starts"], first: 5, locale: $locale, edition: $edition) { nodes { ...ActivityCard } }
    }`),
  exhibitions: query(
    `query List($locale: String!, $edition: Edition!) { exhibitions(sort: ["-starts"], first: 50, locale: $locale, edition: $edition) { nodes { ...ExhibitionCard } } }`,
  ),
  activities: query(
    `query List($locale: String!, $edition: Edition!) { activities(where: { starts: { atLeast: "today" } }, sort: ["starts"], first: 50, locale: $locale, edition: $edition) { nodes { ...ActivityCard } } }`,
  ),
  museums: query(
    `query List($locale: String!, $edition: Edition!) { museums(sort: ["opened"], first: 50, locale: $locale, edition: $edition) { nodes { ...MuseumCard } } }`,
  ),
  people: query(
    `query List($locale: String!, $edition: Edition!) { people(sort: ["name"], first: 50, locale: $locale, edition: $edition) { nodes { ...PersonCard } } }`,
  ),
}

/** The parts of every page: the menu, current notices, and the museums' contacts. */
export const menuQuery = `
  query Menu($locale: String!, $edition: Edition!) {
    pages(where: { inMenu: { is: true }, inPage: { hasValue: false } }, sort: ["place"], first: 12, locale: $locale, edition: $edition) { nodes { path title shows } }
    notices(where: { until: { atLeast: "today" } }, sort: ["until"], first: 3, locale: $locale, edition: $edition) { nodes { text museum { name path } } }
    visitorInfo(locale: $locale, edition: $edition) { claim contact { phone mail } openingHours { museum { name path } from to note } }
  }`
