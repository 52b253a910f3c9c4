/** How long after the last letter what was written is saved, in milliseconds. */
const pause = 1500
/** After how long a save that failed is tried again. */
const patience = 10_000

/**
 * Saves a while after the last change, and again after a failure, until it is stopped.
 * @param save tells whether it came through, or why it need not be tried again before the next change.
 */
export function createAutosave(save: () => Promise<'saved' | 'lost' | 'refused'>) {
  let timer: ReturnType<typeof setTimeout> | undefined
  const after = (time: number): void => {
    clearTimeout(timer)
    timer = setTimeout(() => void run(), time)
  }
  async function run(): Promise<void> {
    timer = undefined
    if ((await save()) === 'lost') after(patience)
  }
  return {
    /** Something was written. */
    touched: () => after(pause),
    /** The network may be there again. */
    hurry: () => timer !== undefined && after(0),
    stop: () => clearTimeout(timer),
  }
}
