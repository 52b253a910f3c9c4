import type { Command } from 'commander'
import { setDryRun } from './connection.js'
import { say } from './output.js'

/**
 * Commands that the service can run and roll back. Those that publish, withdraw, restore a revision or work in bulk have a
 * `--dry-run` of their own, which shows more; `model compare` is that of a model.
 */
const tried = [
  'entry create',
  'entry change',
  'entry duplicate',
  'entry archive',
  'entry reactivate',
  'entry delete',
  'entry place',
  'schedule change',
  'schedule cancel',
  'asset add',
  'asset change',
  'asset replace',
  'asset restore',
  'asset delete',
  'view save',
  'view delete',
  'translate set',
  'translate mark',
  'translate assign',
  'translate ready',
  'translate glossary',
  'translate order',
  'translate retry',
  'translate stop',
  'connector add',
  'connector change',
  'connector remove',
  'connector add-rule',
  'connector change-rule',
  'connector remove-rule',
  'import remove',
  'import keep',
  'import forget',
  'key create',
  'key revoke',
  'member add',
  'member invite',
  'member revoke',
  'member change',
  'member remove',
  'webhook create',
  'webhook change',
  'webhook secret',
  'webhook end-secret',
  'webhook resend',
  'webhook remove',
  'automation run',
  'automation change',
  'automation secret',
  'automation set-secret',
  'automation remove-secret',
  'automation remove',
  'automation stop',
  'automation retry',
  'front-end set',
  'front-end remove',
  'site create',
  'site open',
  'site rebuild',
  'locale set',
  'region set',
  'region add',
  'region label',
  'region remove',
  'region place',
  'region take',
] as const

/** Adds `--dry-run` to each of these commands. */
export function addDryRuns(program: Command): void {
  const commands = tried.map((path) => {
    const names = path.split(' ')
    const command = names.reduce<Command | undefined>(
      (above, name) => above?.commands.find((one) => one.name() === name),
      program,
    )
    if (!command) throw new Error(`There is no command \`${path}\` to try.`)
    return command.option('--dry-run', 'show what it would do, and change nothing')
  })
  program.hook('preAction', (_, asked) => {
    const isDryRun = commands.includes(asked) && asked.opts<{ dryRun?: boolean }>().dryRun === true
    setDryRun(isDryRun)
    if (isDryRun) say('Dry run: nothing is changed. This is what it would do; ids and secrets are made up.')
  })
}
