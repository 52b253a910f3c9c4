export { exampleLine, examples } from './examples.js'
export { exitCodes } from './problems.js'
export { buildProgram } from './program.js'
export { runCommand } from './run.js'
