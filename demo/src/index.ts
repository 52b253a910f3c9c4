export { fillDay } from './day.js'
export { startFrontEnd, type FrontEndOptions, type RunningFrontEnd } from './frontEnd/server.js'
export { seedDemo, type Seeded } from './seed.js'
export { demoOwner, demoPassword, demoSite, modelFolder, readDemoModel } from './world.js'
