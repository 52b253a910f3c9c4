// Writes the reference in docs/reference from the code itself. With --check it only reports whether it is current. Usage: node
// tools/reference.mjs [--check]
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { buildProgram, exampleLine, examples, exitCodes } from '@wisteria/cli'
import {
  decide,
  emptyModel,
  errorCodes,
  eventTypes,
  fieldKinds,
  fieldOptionSays,
  functions,
  typeOptionSays,
  keyScopes,
  operators,
  operatorSays,
  permissions,
  readCondition,
  readModelFiles,
  resolveModel,
  richTextSchema,
  roles,
  factPath,
  systemFactSays,
} from '@wisteria/core'
import { flagOf, hasDryRun, routes, serviceOptions, variableOf } from '@wisteria/service'

const folder = fileURLToPath(new URL('../docs/reference/', import.meta.url))
const note = '<!-- Written by tools/reference.mjs from the code: npm run reference -->\n\n'
const row = (...cells) =>
  `| ${cells.map((cell) => String(cell).replaceAll('|', '\\|').replaceAll('\n', ' ')).join(' | ')} |\n`
const table = (head, rows) => row(...head) + row(...head.map(() => '---')) + rows.map((cells) => row(...cells)).join('')

function membersOf(schema) {
  if (!schema?.shape) return ''
  return Object.entries(schema.shape)
    .map(([name, member]) => `\`${name}\`${member.isOptional?.() || member.safeParse?.(undefined).success ? '' : ' *'}`)
    .join(', ')
}

const routeTable = (prefix) =>
  table(
    ['', 'path', 'what it does', 'needs', 'parameters, body'],
    routes
      .filter((route) => route.path.startsWith(prefix))
      .map((route) => [
        route.method,
        `\`${route.path}\``,
        route.summary,
        `\`${route.permission}\``,
        [
          membersOf(route.query),
          route.body ? `body: ${membersOf(route.body) || 'JSON'}` : '',
          route.idempotent ? '`Idempotency-Key`' : '',
          hasDryRun(route) ? '`Dry-Run`' : '',
        ]
          .filter(Boolean)
          .join('; '),
      ]),
  )

const callers = [
  ...roles.map((role) => [role, { is: 'member', account: '', operator: false, role }]),
  ...keyScopes.map((scope) => [`key: ${scope}`, { is: 'key', key: '', scope }]),
  ['preview grant', { is: 'grant', grant: '' }],
]

const http = `${note}# HTTP

Errors are problem details (RFC 9457, \`application/problem+json\`); \`problems\` lists every place, with a JSON Pointer.
A member marked * is needed. \`edition\` needs the right to read the edition that the request names.

## Read API

${routeTable('/read/')}
## Edit API

With \`Dry-Run: true\` an operation that lists it changes nothing and answers what it would answer, refusals too. Ids and secrets in that answer are not stored. Every other operation refuses the header, so that no dry run changes anything.

${routeTable('/edit/')}
Beside them: \`GET /health\` (alive), \`GET /ready\` (can serve, with the version), and the console at \`/console/\`.

## Who may do what

${table(
  ['', ...callers.map(([name]) => name)],
  Object.entries(permissions).map(([name, meaning]) => [
    `\`${name}\`: ${meaning}`,
    ...callers.map(([, caller]) => (decide(caller, name).allowed ? 'yes' : '')),
  ]),
)}
\`operate\` is a right on the service, and no role of a site.

## Error codes

${table(
  ['code', 'HTTP', 'exit code', 'meaning'],
  Object.entries(errorCodes).map(([code, { status, exit, title }]) => [`\`${code}\``, status, exit, title]),
)}
## Events

${table(
  ['type', 'what happened'],
  Object.entries(eventTypes).map(([type, meaning]) => [`\`${type}\``, meaning]),
)}`

function describe(command, path = []) {
  const name = [...path, command.name()]
  const visible = command.commands.filter((command) => command.name() !== 'help')
  const usage = `\`${name.join(' ')}${visible.length ? ' …' : ` ${command.usage()}`.trimEnd()}\``
  const options = command.options.map((option) => [`\`${option.flags}\``, option.description])
  const example = examples[name.slice(1).join(' ')]
  const own =
    path.length === 0
      ? ''
      : `${'#'.repeat(Math.min(path.length + 1, 3))} ${usage}\n\n${command.description()}\n\n` +
        (example === undefined ? '' : `\`\`\`sh\n${exampleLine(example)}\n\`\`\`\n\n`) +
        (options.length && !visible.length ? table(['option', ''], options) + '\n' : '')
  return own + visible.map((one) => describe(one, name)).join('')
}

const commands = `${note}# Command line

Secrets come from a prompt or the environment, never from an argument. Commands work on the connection that \`wisteria connect\` saved, or on
\`WISTERIA_URL\`, \`WISTERIA_SITE\` and \`WISTERIA_TOKEN\`.

## Exit codes

${table(['code', 'meaning'], Object.entries(exitCodes))}
## Options of the service

${table(
  ['flag', 'environment', 'default', ''],
  Object.entries(serviceOptions).map(([name, option]) => [
    `\`${flagOf(name)}\``,
    `\`${variableOf(name)}\``,
    option.default === '' ? '' : `\`${option.default}\``,
    option.help,
  ]),
)}
${describe(buildProgram())}`.trimEnd()

const shapeWords = (shape) =>
  ({
    scalar: () =>
      `${{ string: 'text', dateTime: 'instant' }[shape.scalar] ?? shape.scalar}${shape.format ? ` (${shape.format})` : ''}`,
    choice: () => 'text, one of the options',
    reference: () => (shape.filled ? 'a list of `{ id, type }`, found when it is read' : '`{ id, type }`'),
    asset: () => '`{ id, name, address, mediaType, size, width, height, alt, title, caption }`',
    blocks: () => '`{ id, block, values }`',
    group: () => 'its fields; in a repeated one `{ id, values }`',
    richText: () => 'the document, or a text: `richText=html`, `markdown`, `text`',
    json: () => 'the value',
    object: () => `\`{ ${Object.keys(shape.members).join(', ')} }\``,
  })[shape.is]()
const exampleOptions = {
  choice: { options: ['talk', 'walk'] },
  entry: { accepts: ['museum'] },
  listing: { accepts: ['museum'] },
  block: { accepts: ['heading'] },
  group: { fields: {} },
}
const compared = {
  text: 'text, folded',
  exact: 'text, letter by letter',
  number: 'number',
  boolean: '`true` or `false`',
  date: 'day',
  dateTime: 'instant',
  span: 'length of time',
  reference: 'id, or through it',
  presence: 'only whether it is there',
}
const fields = `${note}# Field kinds

A model is a folder of YAML files, one a type or block type: see [Shaping content](../guides/shaping-content.md).

${fieldKinds
  .map((kind) => {
    const shape = kind.shape(exampleOptions[kind.name] ?? {})
    const own = Object.entries(kind.descriptions)
    return `## \`${kind.name}\`

${kind.summary}

\`\`\`yaml
${kind.example}
\`\`\`

${
  own.length
    ? table(
        ['option', ''],
        own.map(([name, says]) => [`\`${name}\``, says]),
      ) + '\n'
    : ''
}Readers get: ${shapeWords(shape)}. Conditions compare it as: ${compared[kind.comparison] ?? 'not at all'}. Index: ${kind.indexed ? 'by default' : kind.comparison === 'presence' ? 'none' : 'with `indexed: true`'}.${kind.single ? ' Never many.' : ''}
`
  })
  .join('\n')}
## What a type may say

${table(
  ['option', ''],
  Object.entries(typeOptionSays).map(([name, says]) => [`\`${name}\``, says]),
)}
## What every field may say

${table(
  ['option', ''],
  Object.entries(fieldOptionSays).map(([name, says]) => [`\`${name}\``, says]),
)}`

/** The operators of each kind, found by checking a condition for each. */
const operands = {
  text: '"x"',
  exact: '"x"',
  number: '1',
  boolean: 'true',
  date: '2031-05-04',
  dateTime: '2031-05-04T20:30:00Z',
  span: '"PT90M"',
  reference: '"01hz0000000000000000"',
  presence: '1',
}
const goesWith = (kind, operator) => {
  const option =
    {
      choice: ', options: [x]',
      entry: ', accepts: [thing]',
      listing: ', accepts: [thing]',
      block: ', accepts: [box]',
      group: ', fields: { a: { kind: text } }',
    }[kind.name] ?? ''
  const files = [
    {
      name: 'thing.yaml',
      text: `type: thing\nfields:\n  name: { kind: text }\n  x: { kind: ${kind.name}${option} }\n`,
    },
    { name: 'box.yaml', text: 'block: box\nfields:\n  text: { kind: text }\n' },
  ]
  const model = resolveModel(readModelFiles(files), emptyModel, {
    locales: ['en'],
    defaultLocale: 'en',
    timeZone: 'UTC',
  })
  const operand = operands[kind.comparison]
  const written =
    { in: ` [${operand}]`, 'has value': '', 'has no value': '', contains: ' "x"', 'starts with': ' "x"' }[operator] ??
    ` ${operand}`
  try {
    readCondition(`x ${operator}${written}`, { model, owners: model.types, systemFacts: [], timeZone: 'UTC' })
    return true
  } catch {
    return false
  }
}
const conditions = `${note}# Conditions

\`\`\`
format in ["concert", "walk"] and starts >= now and museum.name contains "Boat" and not (price > 20)
\`\`\`

One small language finds entries (\`where\`, and the filters of GraphQL, which become the same), and rules the forms (\`showIf\`, \`requireIf\`, \`lockIf\`).

## Operators

${table(
  ['', ''],
  operators.map((operator) => [`\`${operator}\``, operatorSays[operator]]),
)}
Joined by \`and\`, \`or\`, \`not\` and parentheses; \`and\` binds closer than \`or\`.

${table(
  ['kind', ...operators.map((operator) => `\`${operator}\``)],
  fieldKinds.map((kind) => [`\`${kind.name}\``, ...operators.map((operator) => (goesWith(kind, operator) ? '•' : ''))]),
)}
## The left side of a comparison

- A field: \`price\`. Through references and into groups with a dot: \`museum.name\`, \`contact.phone\`.
- On a path that leads to many values a comparison means any of them. \`any speakers (name = "A" and home.town = "B")\` speaks of one: of a field of kind entry, or of a repeated group.
- A fact of the entry itself, or of one that a reference leads to (\`museum.entry.id\`). No field may be called \`entry\`, \`now\`, \`today\` or \`here\`:

${table(
  ['fact', ''],
  Object.entries(systemFactSays).map(([name, says]) => [`\`${factPath(name)}\``, says]),
)}
## The right side of a comparison

- Texts in double quotes, with the escapes of JSON; numbers; \`true\` and \`false\`; lists in brackets.
- Days and instants bare: \`2031-05-04\`, \`2031-05-04T20:30:00+02:00\`. A day compared with an instant is its beginning where the site is.
- \`now\` and \`today\`, with \`+\` and \`-\` and minutes, hours, days and weeks: \`today + 7 days\`. A day begins in the site's time zone.
- Lengths of time in double quotes: \`"PT90M"\` (ISO 8601).
- In rules of forms and in \`check\`: another field of the same entry, block or group, of the same kind of comparison: \`ends >= starts\`.
- In lists that fill themselves: the entry that the list stands in. \`here\` is the entry, \`here.museum\` a field of it: \`museum = here.museum and entry.id != here\`. If that field has no value, the comparison is false, and \`!=\` true.

## What it means

- Logic is two-valued: a comparison with a missing value is false, and \`not\` turns that around.
- Values are those of the reader's edition and locale, after fallback. A reference to what the reader cannot see is missing, and so is what a rule hides.
- Text is compared folded: without regard to capitals, accents and forms of Arabic letters. Choices, slugs and colours are compared exactly.

## Rules of forms

\`showIf\`, \`requireIf\` and \`lockIf\` of fields and sections see the fields around them only: those of their own entry, block or group, as stored, hidden or not.
They follow no reference and ask no moment; only \`lockIf\` asks a fact, \`entry.state\`. The rule of a field that all locales share asks only what they share.

\`check\` of a type, block type or group must hold to publish. It sees the same fields, without those that are hidden, and is asked in each locale that becomes public. A comparison of two fields is asked once both have a value.

## Expressions

\`\`\`
firstOf(after.title, "It") & " starts on " & day(after.starts)
\`\`\`

The \`where\` of a webhook and the values of an automation are expressions: conditions, extended by values. In them,

- every path begins with its root, such as \`entry\`, \`before\`, \`after\`, \`item\`, \`trigger\` or \`steps\`: \`after.title\`, \`entry.id\`. What is after the dot is a field, or a fact in \`entry\`: \`item.entry.id\`, and shorter \`entry.id\` of the root \`entry\`. A path into a list leads to the values of all its items.
- either side of a comparison is any value: \`before.price != after.price\`, \`after.price * 2 > 10\`. Two days or instants are compared by time.
- \`+\`, \`-\`, \`*\` and \`/\` calculate with numbers. A length of time is added to or taken from a day or an instant: \`after.starts - 2 hours\`. One day minus another is a number of days.
- \`&\` joins texts: \`"Room " & entry.room\`. No value joins as an empty text.
- \`any trigger.body.rows (item.left = 0)\` is true where an item of a list meets a condition, which names it \`item\`.
- a path to something that does not exist has no value. Arithmetic with no value has none either.

${table(
  ['function', ''],
  Object.entries(functions).map(([name, { says }]) => [`\`${name}(…)\``, says]),
)}
## Mistakes

A condition is checked against the model before it runs: an unknown field, a wrong kind of value or an operator that does not go with it is refused with its line and column, and what may have been meant.
`

const richText = `${note}# Rich text

A rich text is a Markdown syntax tree, as the open [mdast](https://github.com/syntax-tree/mdast) specification has it, stored and read as JSON. The usual tools of that specification read it unchanged. No node holds HTML; every text is escaped in the HTML that is made from it.

\`\`\`json
{
  "type": "root",
  "children": [
    { "type": "heading", "depth": 2, "data": { "id": "b1" }, "children": [{ "type": "text", "value": "Eight rings" }] },
    { "type": "paragraph", "data": { "id": "b2" }, "children": [
      { "type": "text", "value": "It turns with " },
      { "type": "emphasis", "children": [{ "type": "text", "value": "one finger" }] },
      { "type": "text", "value": ", see " },
      { "type": "link", "url": "/museums/lighthouse", "title": "The Lighthouse", "data": { "entry": "01hz0000000000000000" },
        "children": [{ "type": "text", "value": "the lighthouse" }] }
    ] },
    { "type": "paragraph", "data": { "id": "b3" }, "children": [
      { "type": "image", "url": "/assets/…", "alt": "The lens", "data": { "asset": "01hz0000000000000001" } }
    ] }
  ]
}
\`\`\`

| Nodes | |
|---|---|
| \`root\` | the document |
| \`paragraph\`, \`heading\` (\`depth\` 2 to 4), \`list\` and \`listItem\`, \`blockquote\`, \`code\`, \`thematicBreak\` | blocks |
| \`text\`, \`strong\`, \`emphasis\`, \`delete\`, \`inlineCode\`, \`break\`, \`link\`, \`image\` | running text |

- **Blocks have ids.** \`data.id\` of a block or list item is unique in its document and stays when the block is moved or changed. When you send a block without an id, it gets one; when you replace a document through a \`set\`, blocks that are equal to those before keep theirs.
- **Edits address blocks.** \`["story", "b2"]\` is a place like an item of a list: \`set\` replaces the block, \`insert\` at \`["story"]\` adds one, \`move\` and \`remove\` do what they say. Changes of two people to different blocks do not conflict.
- **An entry is a \`link\`, an asset an \`image\`** (or a link), named in \`data\`: \`{ "entry": "…" }\`, \`{ "asset": "…" }\`. A reference that is alone is a paragraph with nothing else in it. Readers get \`url\` and \`title\` of the entry, \`url\` and \`alt\` of the asset; a link without text gets the title of what it leads to. The \`url\` of an entry without a path is empty. An asset that is no picture is read as a link. What you send as \`url\`, \`title\` or \`alt\` of a reference is not stored.
- **Other links** begin with https://, http://, mailto:, tel:, / or #. Other images than assets are refused.
- **Formats nest in one order**: link, strong, emphasis, delete, inline code. What you send in another order is stored in this one. \`position\`, which parsers add, is dropped. \`html\` and other nodes are refused, and so is anything else in \`data\`.
- A reference that a reader may not follow is read as its text, or drops out where it has none.

## Sending Markdown or HTML

Wherever you send a rich text (the Edit API, \`wisteria entry create|change|edit\`), you can send \`{ "markdown": "…" }\` or \`{ "html": "…" }\` instead of the tree:

\`\`\`yaml
story:
  en:
    markdown: |
      ## Eight rings

      It turns with *one finger*, see [the lighthouse](entry:01hz0000000000000000).

      ![](asset:01hz0000000000000001)
\`\`\`

- Markdown is CommonMark with \`~~\` for struck-through text. \`entry:<id>\` and \`asset:<id>\` as an address refer to an entry or an asset.
- HTML in Markdown is refused with its line. Of HTML, scripts, styles and attributes are dropped, and the text of unknown elements is kept.
- Headings take the nearest depth (1 becomes 2, 5 and 6 become 4). Each row of a table becomes a paragraph. An image from another address becomes a link to it.
- A link to any other kind of address is refused, so that none is lost without notice.
- At most 200,000 characters are read, and at most 3,000 Markdown marks in one paragraph.

## Reading another form

Over REST \`richText=document|html|markdown|text\` says which form an answer has; in GraphQL each form is a field of \`RichText\`, beside \`entries\`, what it refers to.

## JSON Schema

\`\`\`json
${JSON.stringify(richTextSchema(), null, 2)}
\`\`\`
`

let stale = 0
for (const [name, text] of Object.entries({
  'http.md': http,
  'command-line.md': commands + '\n',
  'fields.md': fields,
  'conditions.md': conditions,
  'rich-text.md': richText,
})) {
  const file = folder + name
  if (existsSync(file) && readFileSync(file, 'utf8') === text) continue
  if (process.argv.includes('--check')) {
    stale++
    console.error(`docs/reference/${name} is not what the code says: npm run reference`)
  } else writeFileSync(file, text)
}
process.exit(stale > 0 ? 1 : 0)
