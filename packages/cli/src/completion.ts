import type { Command } from 'commander'

export const shells = ['bash', 'zsh', 'fish'] as const
export type Shell = (typeof shells)[number]

/** The possible next words of a command: its commands and options. */
interface Level {
  /** `entry list`; empty at the beginning. */
  readonly path: string
  readonly words: readonly string[]
}

/** Every command of a program with its next words. */
export function levelsOf(command: Command, path: readonly string[] = []): Level[] {
  const words = [
    ...command.commands.map((inner) => inner.name()),
    ...command.options.flatMap(({ long }) => long ?? []),
    '--help',
  ]
  return [
    { path: path.join(' '), words: [...new Set(words)] },
    ...command.commands.flatMap((inner) => levelsOf(inner, [...path, inner.name()])),
  ]
}

/** A script that completes the words of a program in a shell. */
export function completionScript(program: Command, shell: Shell): string {
  const levels = levelsOf(program)
  const name = program.name()
  const cases = levels.map(({ path, words }) => `    '${path}') words='${words.join(' ')}' ;;`).join('\n')
  const commands = [...new Set(levels.flatMap(({ path }) => path.split(' ').filter(Boolean)))].join('|')
  switch (shell) {
    case 'bash':
      return `# ${name} completion bash > /etc/bash_completion.d/${name}
_${name}() {
  local path='' words='' word
  for word in "\${COMP_WORDS[@]:1:COMP_CWORD-1}"; do
    case "$word" in ${commands}) path="\${path:+$path }$word" ;; esac
  done
  case "$path" in
${cases}
  esac
  COMPREPLY=($(compgen -W "$words" -- "\${COMP_WORDS[COMP_CWORD]}"))
}
complete -o default -F _${name} ${name}`
    case 'zsh':
      return `#compdef ${name}
# ${name} completion zsh > "\${fpath[1]}/_${name}"
_${name}() {
  local path='' choices='' word
  for word in "\${(@)words[2,CURRENT-1]}"; do
    case "$word" in ${commands}) path="\${path:+$path }$word" ;; esac
  done
  case "$path" in
${cases.replaceAll("words='", "choices='")}
  esac
  compadd -- \${=choices}
}
compdef _${name} ${name}`
    case 'fish':
      return levels
        .map(({ path, words }) => {
          const seen = path
            .split(' ')
            .filter(Boolean)
            .map((word) => `__fish_seen_subcommand_from ${word}`)
          const next = words.filter((word) => !word.startsWith('--'))
          const condition = [...seen, ...(next.length > 0 ? [`not __fish_seen_subcommand_from ${next.join(' ')}`] : [])]
          const when = condition.length > 0 ? ` -n '${condition.join('; and ')}'` : ''
          const options = words.filter((word) => word.startsWith('--')).map((word) => ` -l ${word.slice(2)}`)
          return [
            ...(next.length > 0 ? [`complete -c ${name}${when} -f -a '${next.join(' ')}'`] : []),
            ...options.map((option) => `complete -c ${name}${when}${option}`),
          ].join('\n')
        })
        .join('\n')
  }
}
