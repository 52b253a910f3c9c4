import type { ScheduleView } from '@wisteria/client'
import { ref } from 'vue'
import type { WorkingCopy } from '../editor/workingCopy'
import { messageOf, t } from '../messages'

/** The schedules of the form's entry. `tell` is called when one was cancelled, `fail` when that failed. */
export function useSchedules(copy: WorkingCopy, tell: (text: string) => void, fail: (text: string) => void) {
  const schedules = ref<readonly ScheduleView[]>([])
  async function read(): Promise<void> {
    const { value: entry } = copy.entry
    if (!entry) return
    schedules.value = (await copy.site.editor.schedules({ entry: entry.id }).catch(() => ({ schedules: [] }))).schedules
  }
  async function cancelSchedule({ id }: ScheduleView): Promise<void> {
    try {
      await copy.site.editor.cancelSchedule(id)
      tell(t('today.cancelled'))
    } catch (error) {
      fail(messageOf(error))
    }
    await read()
  }
  return { schedules, read, cancelSchedule }
}
