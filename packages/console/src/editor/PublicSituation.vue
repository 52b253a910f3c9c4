<script setup lang="ts">
import type { ScheduleView } from '@wisteria/client'
import { chainOf } from '@wisteria/core'
import { ElDropdown, ElDropdownItem, ElDropdownMenu } from 'element-plus'
import { computed } from 'vue'
import StateMark from '../components/StateMark.vue'
import { moment } from '../times'
import { useWorkingCopy } from './workingCopy'
import { problemMessage, t } from '../messages'

/** What readers get now in each locale, schedules, and problems. */
const { schedules, mayPublish } = defineProps<{ schedules: readonly ScheduleView[]; mayPublish: boolean }>()
const emit = defineEmits<{
  jump: [pointer: string, locale: string | undefined]
  cancelSchedule: [schedule: ScheduleView]
}>()
/** The locale of the form. */
const locale = defineModel<string>('locale', { required: true })
const copy = useWorkingCopy()

/** What a reader of each locale gets now, in a few words. */
const situations = computed(() =>
  copy.site.settings.locales.map(({ tag, label }) => {
    const state = copy.states.value[tag] ?? 'new'
    const from = ['new', 'withdrawn'].includes(state)
      ? chainOf(copy.site.settings, tag)
          .slice(1)
          .find((candidate) => copy.isPublic(candidate))
      : undefined
    const differing = copy.changes.value.filter((change) => change.locale === tag || change.locale === null).length
    const words = from
      ? t('publishing.from', { locale: from })
      : state === 'edited' && differing > 0
        ? t('publishing.editedPlaces', { n: differing })
        : copy.entry.value?.freshness[tag] === 'outdated'
          ? t('publishing.sourceChanged', { state: t(`states.${state}`) })
          : t(`states.${state}`)
    return { tag, label, mark: from ? ('fallback' as const) : state, words }
  }),
)
</script>

<template>
  <button
    v-for="situation in situations"
    :key="situation.tag"
    class="plain locale"
    type="button"
    :class="{ here: situation.tag === locale }"
    :aria-pressed="situation.tag === locale"
    :title="`${situation.label}: ${situation.words}`"
    @click="locale = situation.tag"
  >
    <StateMark :state="situation.mark" :label="situation.words" /> <b>{{ situation.tag }}</b>
    <span class="quiet">{{ situation.words }}</span>
  </button>
  <ElDropdown v-if="schedules.length > 0" trigger="click" placement="top">
    <button class="plain scheduled" type="button">
      <StateMark state="scheduled" />
      {{ t(`publishing.next.${schedules[0]!.does}`, { moment: moment(schedules[0]!.at, schedules[0]!.zone) }) }}
    </button>
    <template #dropdown>
      <ElDropdownMenu>
        <ElDropdownItem
          v-for="schedule in schedules"
          :key="schedule.id"
          :disabled="!mayPublish"
          @click="emit('cancelSchedule', schedule)"
          >{{
            t(`publishing.cancelSchedule.${schedule.does}`, { moment: moment(schedule.at, schedule.zone) })
          }}</ElDropdownItem
        >
      </ElDropdownMenu>
    </template>
  </ElDropdown>
  <ElDropdown v-if="copy.problems.value.length > 0" trigger="click" placement="top" :max-height="320">
    <button class="plain error-text" type="button" :title="t('publishing.nextProblem')">
      {{ t('publishing.problems', { n: copy.problems.value.length }) }}
    </button>
    <template #dropdown>
      <ElDropdownMenu>
        <ElDropdownItem
          v-for="problem in copy.problems.value"
          :key="problem.message + problem.pointer"
          @click="emit('jump', problem.pointer ?? '', problem.locale)"
          >{{ problemMessage(problem) }}</ElDropdownItem
        >
      </ElDropdownMenu>
    </template>
  </ElDropdown>
</template>

<style scoped>
.scheduled {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  color: var(--w-ink2);
}
.locale {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  padding: 4px 8px;
  border-radius: 2px;
}
.locale b {
  font-weight: 600;
}
.locale {
  flex: none;
}
.locale.here {
  background: var(--w-accent-wash);
  box-shadow: inset 0 -2px var(--w-accent);
}
/* Where there is little room, only the locale of the form has words; the others have their symbol, with the words as a title. */
@media (max-width: 1180px) {
  .locale:not(.here) .quiet {
    display: none;
  }
}
</style>
