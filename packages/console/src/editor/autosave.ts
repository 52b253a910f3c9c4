import { useTimeoutFn } from '@vueuse/core'

/** How long after the last letter what was written is saved, in milliseconds. */
const pause = 1500
/** After how long a save that failed is tried again. */
const retryAfter = 10_000

/**
 * Saves a while after the last change, and again after a failure, until the form around it is gone.
 * @param save tells whether it came through, or why it need not be tried again before the next change.
 */
export function createAutosave(save: () => Promise<'saved' | 'lost' | 'refused'>) {
  let delay = pause
  const { isPending, start, stop } = useTimeoutFn(run, () => delay, { immediate: false })
  const after = (milliseconds: number): void => {
    delay = milliseconds
    start()
  }
  async function run(): Promise<void> {
    if ((await save()) === 'lost') after(retryAfter)
  }
  return {
    /** Something was written. */
    touched: () => after(pause),
    /** The network may be there again. */
    hurry: () => isPending.value && after(0),
    stop,
  }
}
