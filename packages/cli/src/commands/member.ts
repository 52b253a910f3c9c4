import type { Role } from '@wisteria/core'
import type { Command } from 'commander'
import { openEditor } from '../connection.js'
import { readList, readSecret } from '../input.js'
import { print, printJson, printTable } from '../output.js'

interface Json {
  readonly json?: boolean
}

export function addMember(program: Command): void {
  const member = program
    .command('member')
    .summary('members and their roles')
    .description('Members of the site: owner, developer, editor, translator or viewer.')
  member
    .command('list')
    .description('Lists the members of the site.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { members } = await openEditor().members()
      if (json) return printJson({ members })
      printTable(
        ['name', 'e-mail', 'role', 'limited to', 'account'],
        members.map((member) => [member.name, member.email, member.role, member.locales?.join(', '), member.account]),
      )
    })
  member
    .command('add')
    .description(
      'Makes somebody a member. With --name their account is made too; its password is asked for, or taken from WISTERIA_NEW_PASSWORD.',
    )
    .argument('<email>')
    .requiredOption('--role <role>', 'owner, developer, editor, translator or viewer')
    .option('--name <name>', 'for a new account')
    .option('--locales <tags>', 'limit them to these locales', readList)
    .option('--json', 'print JSON')
    .action(
      async (
        email: string,
        { role, name, locales, json }: { role: Role; name?: string; locales?: string[] } & Json,
      ) => {
        const password =
          name === undefined ? undefined : await readSecret('WISTERIA_NEW_PASSWORD', `Password for ${email}`)
        const created = await openEditor().addMember({
          email,
          role,
          ...(name ? { name } : {}),
          ...(password ? { password } : {}),
          ...(locales ? { locales } : {}),
        })
        if (json) printJson(created)
        else print(`${created.name} is ${created.role} now.`)
      },
    )
  member
    .command('change')
    .description("Changes a member's role and limits.")
    .argument('<account>')
    .requiredOption('--role <role>', 'owner, developer, editor, translator or viewer')
    .option('--locales <tags>', 'limit them to these locales; no limit when left out', readList)
    .option('--json', 'print JSON')
    .action(async (account: string, { role, locales, json }: { role: Role; locales?: string[] } & Json) => {
      const changed = await openEditor().changeMember(account, { role, locales: locales ?? null })
      if (json) printJson(changed)
      else print(`${changed.name} is ${changed.role} now.`)
    })
  member
    .command('remove')
    .description('Ends a membership. The account stays.')
    .argument('<account>')
    .option('--json', 'print JSON')
    .action(async (account: string, { json }: Json) => {
      await openEditor().removeMember(account)
      if (json) printJson({ removed: account })
      else print(`Removed: ${account}`)
    })
}
