import type { Command } from 'commander'

/** An example of each command, as its help shows it. Ids and names are made up. */
export const examples: Readonly<Record<string, string>> = {
  serve: 'serve --data ./data --port 4310',
  demo: 'demo --data ./data/demo --fresh',
  connect: 'connect http://127.0.0.1:4310 --email maren@marram.example --site marram',
  'model show': 'model show',
  'model pull': 'model pull ./model --prune',
  'model compare': 'model compare ./model',
  'model adopt': 'model adopt ./model --breaking',
  'model history': 'model history',
  types: 'types --out content.ts',
  'entry list': 'entry list activity --where \'format = "walk"\' --sort starts --first 20',
  'entry find': 'entry find night walk --type activity',
  'entry show': 'entry show 01hz0000000000000000',
  'entry create': 'entry create person --file person.yaml',
  'entry change': 'entry change 01hz0000000000000000 --file changes.yaml',
  'entry publish': 'entry publish 01hz0000000000000000 --locales en,nl --dry-run',
  'entry withdraw': 'entry withdraw 01hz0000000000000000 --locales nl --dry-run',
  'entry duplicate': 'entry duplicate 01hz0000000000000000',
  'entry usage': 'entry usage 01hz0000000000000000',
  'entry revisions': 'entry revisions 01hz0000000000000000',
  'entry revision': 'entry revision 01hz0000000000000000 3',
  'entry compare': 'entry compare 01hz0000000000000000 --from public',
  'entry restore': 'entry restore 01hz0000000000000000 --from 3 --field title --dry-run',
  'entry archive': 'entry archive 01hz0000000000000000',
  'entry reactivate': 'entry reactivate 01hz0000000000000000',
  'entry delete': 'entry delete 01hz0000000000000000',
  'entry bin': 'entry bin',
  'entry edit': 'EDITOR=vi entry edit 01hz0000000000000000',
  'entry tree': 'entry tree',
  'entry place': 'entry place 01hz0000000000000000 --below 01hz0000000000000001',
  'entry bulk': "entry bulk publish --type activity --where 'starts >= now' --dry-run",
  'schedule list': 'schedule list --ended',
  'schedule change': 'schedule change 01hz0000000000000002 --at 2031-05-04T09:00 --zone Europe/Amsterdam',
  'schedule cancel': 'schedule cancel 01hz0000000000000002',
  'asset list': "asset list --accepts 'image/*'",
  'asset add': "asset add lens.jpg --alt 'en=The great lens'",
  'asset change': "asset change 01hz0000000000000003 --caption 'nl=De grote lens'",
  'asset replace': 'asset replace 01hz0000000000000003 lens.jpg',
  'asset revisions': 'asset revisions 01hz0000000000000003',
  'asset restore': 'asset restore 01hz0000000000000003 --from 2',
  'asset usage': 'asset usage 01hz0000000000000003',
  'asset delete': 'asset delete 01hz0000000000000003',
  'view list': 'view list',
  'view save': "view save 'Walks to come' --type activity --where 'starts >= now' --shared",
  'view delete': "view delete 'Walks to come'",
  'translate board': 'translate board --type activity',
  'translate list': 'translate list --locale nl --first 10',
  'translate show': 'translate show 01hz0000000000000000 --locale nl --todo',
  'translate set': "translate set 01hz0000000000000000 --locale nl 'title=Avondwandeling'",
  'translate mark': 'translate mark 01hz0000000000000000 --locale nl --still-right all',
  'translate assign': 'translate assign 01hz0000000000000000 --locale nl --to ilse@marram.example --due 2031-03-12',
  'translate ready': 'translate ready 01hz0000000000000000 --locale nl',
  'translate glossary': 'translate glossary --file glossary.yaml',
  'translate export': 'translate export dutch.xlf --locale nl --type activity',
  'translate import': 'translate import dutch.xlf --locale nl --dry-run',
  'translate imports': 'translate imports',
  'job list': 'job list',
  'job show': 'job show 01hz0000000000000004',
  'job stop': 'job stop 01hz0000000000000004',
  'job undo': 'job undo 01hz0000000000000004',
  query: "query activity --where 'starts >= now' --pick 'title, museum(name)' --first 5",
  'key list': 'key list',
  'key create': "key create --label 'Website' --scope published",
  'key revoke': 'key revoke 01hz0000000000000005',
  'member list': 'member list',
  'member add': "member add hanne@marram.example --name 'Hanne Kwelder' --role editor",
  'member invite': 'member invite hanne@marram.example --role translator --locales nl',
  'member invitations': 'member invitations',
  'member revoke': 'member revoke hanne@marram.example',
  'member change': 'member change hanne@marram.example --role editor',
  'member remove': 'member remove hanne@marram.example',
  'account password': 'account password',
  'account change': 'account change --language nl --time-zone Europe/Amsterdam',
  'account sessions': 'account sessions',
  'account end-session': 'account end-session 01hz0000000000000006',
  'account sign-out': 'account sign-out hanne@marram.example --data ./data',
  'account list': 'account list --data ./data',
  'account link': 'account link hanne@marram.example --data ./data',
  'account reset': 'account reset hanne@marram.example --data ./data',
  'account disable': 'account disable hanne@marram.example',
  'account enable': 'account enable hanne@marram.example',
  restored: 'restored --data ./data',
  'webhook list': 'webhook list',
  'webhook create':
    "webhook create --label 'Rebuild' --address https://www.marram.example/hooks --events entry.published",
  'webhook change': 'webhook change 01hz0000000000000007 --address https://www.marram.example/changed',
  'webhook deliveries': 'webhook deliveries 01hz0000000000000007',
  'webhook resend': 'webhook resend 01hz0000000000000007 01hz0000000000000008',
  'webhook remove': 'webhook remove 01hz0000000000000007',
  'webhook events': 'webhook events --after 120',
  'front-end list': 'front-end list',
  'front-end set': 'front-end set www --file front-end.yaml',
  'front-end remove': 'front-end remove www',
  'locale list': 'locale list',
  'locale set': 'locale set --file locales.json',
  'locale compare': 'locale compare --file locales.json',
  'site list': 'site list',
  'site create': 'site create --file site.yaml',
  'site open': 'site open',
  'site rebuild': 'site rebuild',
  completion: 'completion bash',
}

/** Every command that does something, with its words. */
export function* leavesOf(command: Command, path: readonly string[] = []): Generator<[string, Command]> {
  if (command.commands.length === 0) yield [path.join(' '), command]
  for (const inner of command.commands) yield* leavesOf(inner, [...path, inner.name()])
}

/** An example as it is typed: variables of the environment, the program, its words. */
export const exampleLine = (example: string): string => example.replace(/^(?:[A-Z_]+=\S+ )*/, '$&wisteria ')

/** Ends the help of each command with its example. */
export function addExamples(program: Command): void {
  for (const [path, command] of leavesOf(program)) {
    const example = examples[path]
    if (example === undefined) continue
    command.addHelpText('after', `\nExample:\n  ${exampleLine(example)}`)
  }
}
