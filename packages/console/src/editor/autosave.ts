import { useTimeoutFn } from '@vueuse/core'

/** The pause between the last letter and the save, in milliseconds. */
const pause = 1500
/** After how long a save that failed is tried again. */
const retryAfter = 10_000

/**
 * Saves after a pause in the changes, and again after a failure, until its form is unmounted.
 * @param save resolves to whether it succeeded, or why it need not be tried again before the next change.
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
