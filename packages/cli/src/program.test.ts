import { describe, expect, it } from 'vitest'
import { completionScript, levelsOf } from './completion.js'
import { examples, leavesOf } from './examples.js'
import { buildProgram } from './program.js'

const program = buildProgram()

describe('the help of each command', () => {
  it('has an example that the command reads', () => {
    const paths = [...leavesOf(program)].map(([path]) => path)
    expect(Object.keys(examples).sort()).toEqual([...paths].sort())
    for (const [path, command] of leavesOf(program)) {
      const words = examples[path]!.replace(/^([A-Z_]+=\S+ )+/, '')
      expect(words.startsWith(path), path).toBe(true)
      const options = command.options.map(({ long }) => long)
      for (const [option] of words.matchAll(/--[a-z-]+/g)) expect(options, `${path} ${option}`).toContain(option)
      const required = command.registeredArguments.filter((argument) => argument.required).length
      const given = words
        .slice(path.length)
        .replace(/'[^']*'/g, 'x')
        .replace(/--[a-z-]+( [^- ]\S*)?/g, '')
        .trim()
      expect(given.split(/\s+/).filter(Boolean).length, path).toBeGreaterThanOrEqual(required)
    }
  })
})

describe('completion', () => {
  it('knows every command and its options', () => {
    const levels = new Map(levelsOf(program).map(({ path, words }) => [path, words]))
    expect(levels.get('')).toContain('entry')
    expect(levels.get('entry')).toContain('list')
    expect(levels.get('entry list')).toContain('--where')
  })
  it.each(['bash', 'zsh', 'fish'] as const)('is a script of %s that says every command', (shell) => {
    const script = completionScript(program, shell)
    for (const word of ['entry', 'publish', 'model', 'compare', 'dry-run']) expect(script).toContain(word)
  })
})
