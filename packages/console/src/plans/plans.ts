import type { ScheduleView } from '@wisteria/client'
import { ref } from 'vue'
import type { WorkingCopy } from '../editor/workingCopy'
import { messageOf, t } from '../messages'

/** What is planned for the entry on a desk. `tell` and `fail` are told what came of calling it off. */
export function usePlans(copy: WorkingCopy, tell: (text: string) => void, fail: (text: string) => void) {
  const plans = ref<readonly ScheduleView[]>([])
  async function read(): Promise<void> {
    const { value: entry } = copy.entry
    if (!entry) return
    plans.value = (await copy.site.editor.schedules({ entry: entry.id }).catch(() => ({ schedules: [] }))).schedules
  }
  async function callOff(plan: ScheduleView): Promise<void> {
    try {
      await copy.site.editor.callOff(plan.id)
      tell(t('today.calledOff'))
    } catch (error) {
      fail(messageOf(error))
    }
    await read()
  }
  return { plans, read, callOff }
}
