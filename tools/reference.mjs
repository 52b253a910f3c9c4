// Writes the reference in docs/reference from the code itself. With --check it only says whether it is current.
// Usage: node tools/reference.mjs [--check]
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { buildProgram, exitCodes } from '@wisteria/cli'
import { errorCodes, eventTypes, fieldKinds, keyScopes, operators, permissions, roles, decide } from '@wisteria/core'
import { flagOf, routes, serviceOptions, variableOf } from '@wisteria/service'

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
  const visible = command.commands.filter((one) => one.name() !== 'help')
  const usage = `\`${name.join(' ')}${visible.length ? ' …' : ` ${command.usage()}`.trimEnd()}\``
  const options = command.options.map((option) => [`\`${option.flags}\``, option.description])
  const own =
    path.length === 0
      ? ''
      : `${'#'.repeat(Math.min(path.length + 1, 3))} ${usage}\n\n${command.description()}\n\n${options.length && !visible.length ? table(['option', ''], options) + '\n' : ''}`
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
${describe(await buildProgram())}`.trimEnd()

const shapeWords = {
  scalar: (shape) => shape.scalar,
  choice: () => 'string, one of the options',
  reference: () => '`{ id, type }`',
  blocks: () => 'list of `{ handle, block, values }`',
}
const exampleOptions = {
  choice: { options: ['talk', 'walk'] },
  entry: { accepts: ['museum'] },
  block: { accepts: ['heading'] },
}
const kinds = `${note}# Field kinds

Every field may also say \`label\`, \`help\`, \`required\`, \`localized\`, \`many\`, \`count: { min, max }\`, \`index\` and \`was\` (the name it had before).

${table(
  ['kind', '', 'own options', 'readers get', 'compared as', 'indexed'],
  fieldKinds.map((kind) => {
    const shape = kind.shape(exampleOptions[kind.name] ?? {})
    return [
      `\`${kind.name}\``,
      kind.summary,
      kind.optionNames.map((name) => `\`${name}\``).join(', '),
      shapeWords[shape.is](shape),
      kind.comparison ?? 'not at all',
      kind.indexed ? 'yes' : 'with `index: true`',
    ]
  }),
)}
# Conditions

\`\`\`
format in ["concert", "walk"] and starts >= $now and museum.name contains "Boat" and not (price > 20)
\`\`\`

Operators: ${operators.map((operator) => `\`${operator}\``).join(' ')}; joined by \`and\`, \`or\`, \`not\` and parentheses.

- Paths reach through references: \`museum.name\`. On many values a comparison means any of them; \`any speakers (name = "A" and home.town = "B")\` speaks of one.
- Logic is two-valued: a comparison with a missing value is false, and \`!=\` is \`not =\`. A reference to an entry that the reader cannot see is missing.
- Text is compared folded: without regard to capitals, accents and forms of Arabic letters. Choices and slugs are compared exactly.
- Dates are written bare, \`2031-05-04\`; instants as \`2031-05-04T20:30:00+02:00\`. \`$now\` and \`$today\` take \`+\` and \`-\` with minutes, hours, days and weeks; a day begins in the site's time zone.
- Facts of the system: \`$type\`, \`$updated\`, \`$published\`, and in drafts \`$state\` (\`new\`, \`public\`, \`edited\`, \`withdrawn\`).
`

let stale = 0
for (const [name, text] of Object.entries({
  'http.md': http,
  'command-line.md': commands + '\n',
  'fields-and-conditions.md': kinds,
})) {
  const file = folder + name
  if (existsSync(file) && readFileSync(file, 'utf8') === text) continue
  if (process.argv.includes('--check')) {
    stale++
    console.error(`docs/reference/${name} is not what the code says: npm run reference`)
  } else writeFileSync(file, text)
}
process.exit(stale > 0 ? 1 : 0)
