<script setup lang="ts">
import { decide, type TranslationTask } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed } from 'vue'
import { nameOfActor, session, type Site } from '../session'
import { ago, day } from '../times'
import { t } from '../messages'
import AssignPanel from './AssignPanel.vue'

/** Who translates the entry, until when, and whether it is ready for review. */
const props = defineProps<{ task: TranslationTask | null; site: Site; locale: string }>()
const emit = defineEmits<{ assign: [assignee: string | null, due: string | null] }>()

const self = computed(() => session.value?.account.id)
const mayAssign = computed(() => decide(props.site.caller, 'entry.write').allowed)
const mayTake = computed(() => decide(props.site.caller, 'entry.translate', { locales: [props.locale] }).allowed)
const nameOf = (account: string): string => nameOfActor(props.site, `account:${account}`)
</script>

<template>
  <p class="task">
    <span v-if="task?.assignee">{{
      task.due
        ? t('translating.assignedUntil', { name: nameOf(task.assignee), day: day(task.due) })
        : t('translating.assignedTo', { name: nameOf(task.assignee) })
    }}</span>
    <span v-else class="quiet">{{ t('translating.assignedToNobody') }}</span>
    <AssignPanel
      v-if="mayAssign"
      :site="site"
      :locale="locale"
      :label="t('translating.assign')"
      :task="task"
      @assign="(assignee, due) => emit('assign', assignee, due)"
    />
    <ElButton
      v-else-if="mayTake && (!task?.assignee || task.assignee === self)"
      size="small"
      @click="emit('assign', task?.assignee === self ? null : (self ?? null), task?.due ?? null)"
      >{{ task?.assignee === self ? t('translating.giveBack') : t('translating.take') }}</ElButton
    >
    <span v-if="task?.readyAt" class="ready"
      ><span aria-hidden="true">✓</span>
      {{ t('translating.readySince', { name: nameOfActor(site, task.readyBy ?? ''), when: ago(task.readyAt) }) }}</span
    >
  </p>
</template>

<style scoped>
.task {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 16px;
  margin: 8px 0 0;
  font-size: 13px;
}
</style>
