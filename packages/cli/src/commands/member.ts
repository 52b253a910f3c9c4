import type { Member } from '@wisteria/client'
import type { Role } from '@wisteria/core'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { readList, readSecret } from '../input.js'
import { print, printJson, printTable, when } from '../output.js'

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
        ['name', 'e-mail', 'role', 'locales', 'regions'],
        members.map((member) => [
          member.name,
          member.email,
          member.role,
          member.locales?.join(', '),
          member.regions?.join(', '),
        ]),
      )
    })
  member
    .command('add')
    .description(
      'Makes somebody a member. With --name an account is created too; its password is asked for, or taken from WISTERIA_NEW_PASSWORD.',
    )
    .argument('<email>')
    .requiredOption('--role <role>', 'owner, developer, editor, translator or viewer')
    .option('--name <name>', 'for a new account')
    .option('--locales <tags>', 'limit them to these locales', readList)
    .option('--regions <names>', 'limit them to these regions', readList)
    .option('--json', 'print JSON')
    .action(
      async (
        email: string,
        {
          role,
          name,
          locales,
          regions,
          json,
        }: { role: Role; name?: string; locales?: string[]; regions?: string[] } & Json,
      ) => {
        const password =
          name === undefined ? undefined : await readSecret('WISTERIA_NEW_PASSWORD', `Password for ${email}`)
        const created = await openEditor().addMember({
          email,
          role,
          ...(name ? { name } : {}),
          ...(password ? { password } : {}),
          ...(locales ? { locales } : {}),
          ...(regions ? { regions } : {}),
        })
        if (json) printJson(created)
        else print(`${created.name} is ${created.role} now.`)
      },
    )
  member
    .command('invite')
    .description(
      'Invites somebody by a one-time link, valid for 7 days. An earlier link to the same e-mail stops working.',
    )
    .argument('<email>')
    .requiredOption('--role <role>', 'owner, developer, editor, translator or viewer')
    .option('--locales <tags>', 'limit them to these locales', readList)
    .option('--regions <names>', 'limit them to these regions', readList)
    .option('--json', 'print JSON')
    .action(
      async (
        email: string,
        { role, locales, regions, json }: { role: Role; locales?: string[]; regions?: string[] } & Json,
      ) => {
        const invited = await openEditor().invite({
          email,
          role,
          ...(locales ? { locales } : {}),
          ...(regions ? { regions } : {}),
        })
        if (json) printJson(invited)
        else
          print(
            `${invited.address}\nGive it to ${invited.email} alone. It works once, until ${when(invited.expiresAt)}.`,
          )
      },
    )
  member
    .command('invitations')
    .description('Lists open invitations.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { invitations } = await openEditor().invitations()
      if (json) return printJson({ invitations })
      if (invitations.length === 0) return print('Nobody is invited.')
      const now = new Date().toISOString()
      printTable(
        ['e-mail', 'role', 'limited to', 'link'],
        invitations.map(({ email, role, locales, expiresAt }) => [
          email,
          role,
          locales?.join(', '),
          expiresAt > now ? `valid until ${when(expiresAt)}` : 'expired',
        ]),
      )
    })
  member
    .command('revoke')
    .description('Revokes an invitation: its link stops working.')
    .argument('<email>')
    .option('--json', 'print JSON')
    .action(async (email: string, { json }: Json) => {
      const { invitations } = await openEditor().invitations()
      const invitation = invitations.find((candidate) => candidate.email === email.trim().toLowerCase())
      if (!invitation) throw new UsageError(`${email} is not invited. \`wisteria member invitations\` lists who is.`)
      await openEditor().revokeInvitation(invitation.id)
      if (json) printJson({ revoked: invitation.id })
      else print(`The invitation of ${invitation.email} is revoked.`)
    })
  member
    .command('change')
    .description("Changes a member's role and limits.")
    .argument('<email>')
    .requiredOption('--role <role>', 'owner, developer, editor, translator or viewer')
    .option('--locales <tags>', 'limit them to these locales; no limit when left out', readList)
    .option('--regions <names>', 'limit them to these regions; no limit when left out', readList)
    .option('--json', 'print JSON')
    .action(
      async (
        email: string,
        { role, locales, regions, json }: { role: Role; locales?: string[]; regions?: string[] } & Json,
      ) => {
        const { account } = await memberWith(email)
        const changed = await openEditor().changeMember(account, {
          role,
          locales: locales ?? null,
          regions: regions ?? null,
        })
        if (json) printJson(changed)
        else print(`${changed.name} is ${changed.role} now.`)
      },
    )
  member
    .command('remove')
    .description('Ends a membership. The account stays.')
    .argument('<email>')
    .option('--json', 'print JSON')
    .action(async (email: string, { json }: Json) => {
      const { account, name } = await memberWith(email)
      await openEditor().removeMember(account)
      if (json) printJson({ removed: account })
      else print(`${name} is no longer a member.`)
    })
}

/** The member with an e-mail, or with the id of an account. */
async function memberWith(said: string): Promise<Member> {
  const { members } = await openEditor().members()
  const member = members.find(({ email, account }) => email === said.trim().toLowerCase() || account === said)
  if (!member) throw new UsageError(`No member has the e-mail ${said}. \`wisteria member list\` lists them.`)
  return member
}
