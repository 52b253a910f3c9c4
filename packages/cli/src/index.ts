export { exitCodes } from './problems.js'
export { buildProgram } from './program.js'
