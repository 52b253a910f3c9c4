// Prints benchmarks: ratios to floors measured in the same run. The floors differ from machine to machine. Usage: npm run bench [--
// --only reading,conditions,adopting,editing,translating,telling,large] [--seconds N] [--entries N] [--keep DIR]
import { benchAdopting } from './adopting.mjs'
import { benchConditions } from './conditions.mjs'
import { benchEditing } from './editing.mjs'
import { benchLarge } from './largeReading.mjs'
import { benchReading } from './reading.mjs'
import { benchTelling } from './telling.mjs'
import { benchTranslating } from './translating.mjs'

const option = (name, otherwise) => {
  const at = process.argv.indexOf(`--${name}`)
  return at > 0 ? process.argv[at + 1] : otherwise
}
const seconds = Number(option('seconds', 4))
const entries = Number(option('entries', 10_000))
const benches = {
  reading: () => benchReading({ seconds }),
  conditions: benchConditions,
  adopting: () => benchAdopting({ entries }),
  editing: () => benchEditing({ entries }),
  translating: () => benchTranslating({ entries: Number(option('entries', 100_000)) }),
  telling: () => benchTelling({ rows: Number(option('entries', 2000)) }),
  large: () => benchLarge({ entries: Number(option('entries', 100_000)), seconds, keep: option('keep') }),
}
const wanted = option('only', Object.keys(benches).join(',')).split(',')
const unknown = wanted.find((name) => !(name in benches))
if (unknown !== undefined) {
  console.error(`There is no bench \`${unknown}\`: ${Object.keys(benches).join(', ')}.`)
  process.exit(2)
}
for (const name of wanted) await benches[name]()
process.exit(0)
