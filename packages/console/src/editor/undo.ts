import { sameContent } from '@wisteria/core'
import { useTimeoutFn } from '@vueuse/core'
import { computed, shallowRef, watch } from 'vue'
import type { WorkingCopy } from './workingCopy'

type Values = Record<string, unknown>

/** The changes of one step: by the name of each field, its value before and after. */
type Step = ReadonlyMap<string, { readonly before: unknown; readonly after: unknown }>

/** Typing without a pause this long is one step, in milliseconds. */
const pause = 700
const maxSteps = 200

/**
 * Undo and redo in a form, field by field: saves of others are not undone, since a step touches only the fields that it changed,
 * and only while they have its values.
 */
export function createUndo(copy: Pick<WorkingCopy, 'values'> & Partial<Pick<WorkingCopy, 'recordStep'>>) {
  const past = shallowRef<Step[]>([])
  const future = shallowRef<Step[]>([])
  let recorded = plain(copy.values)
  let isApplying = false

  /** Makes a step of the changes since the last one. */
  function recordStep(): void {
    stopWaiting()
    const now = plain(copy.values)
    const step = between(recorded, now)
    recorded = now
    if (step.size === 0) return
    past.value = [...past.value.slice(1 - maxSteps), step]
    future.value = []
  }

  const { start: recordSoon, stop: stopWaiting } = useTimeoutFn(recordStep, pause, { immediate: false })
  watch(
    () => copy.values,
    () => {
      if (!isApplying) recordSoon()
    },
    { deep: true, flush: 'sync' },
  )

  /** @returns whether anything changed: others may have written since at every place that the step touches. */
  function apply(step: Step, which: 'before' | 'after'): boolean {
    isApplying = true
    let isChanged = false
    for (const [name, change] of step) {
      const [wanted, expected] = which === 'before' ? [change.before, change.after] : [change.after, change.before]
      if (!sameContent(plainValue(copy.values[name]), expected)) continue
      if (wanted === undefined) delete copy.values[name]
      else copy.values[name] = structuredClone(wanted)
      isChanged = true
    }
    recorded = plain(copy.values)
    isApplying = false
    return isChanged
  }

  if (copy.recordStep) copy.recordStep.value = recordStep
  return {
    canUndo: computed(() => past.value.length > 0),
    canRedo: computed(() => future.value.length > 0),
    undo(): boolean {
      recordStep()
      // A step without remaining changes is skipped, so that each undo changes something visible.
      for (;;) {
        const step = past.value.at(-1)
        if (!step) return false
        past.value = past.value.slice(0, -1)
        if (!apply(step, 'before')) continue
        future.value = [...future.value, step]
        return true
      }
    },
    redo(): boolean {
      recordStep()
      for (;;) {
        const step = future.value.at(-1)
        if (!step) return false
        future.value = future.value.slice(0, -1)
        if (!apply(step, 'after')) continue
        past.value = [...past.value, step]
        return true
      }
    },
    /** Changes from the service are no step. */
    rebase(): void {
      stopWaiting()
      recorded = plain(copy.values)
    },
  }
}

export type Undo = ReturnType<typeof createUndo>

function between(before: Values, after: Values): Step {
  const names = new Set([...Object.keys(before), ...Object.keys(after)])
  return new Map(
    [...names].flatMap((name) =>
      sameContent(before[name], after[name]) ? [] : [[name, { before: before[name], after: after[name] }] as const],
    ),
  )
}

const plain = (values: Values): Values => JSON.parse(JSON.stringify(values)) as Values
const plainValue = (value: unknown): unknown => (value === undefined ? undefined : JSON.parse(JSON.stringify(value)))
