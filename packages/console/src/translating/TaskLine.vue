<script setup lang="ts">
import { decide, type TranslationTask } from '@wisteria/core'
import { ElButton, ElDatePicker, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import PopPanel from '../components/PopPanel.vue'
import { nameOfActor, session, type Site } from '../session'
import { ago, day } from '../times'
import { t } from '../messages'

/** Who translates the entry, until when, and whether it is ready for review. */
const props = defineProps<{ task: TranslationTask | null; site: Site; locale: string }>()
const emit = defineEmits<{ assign: [assignee: string | null, due: string | null] }>()

const self = computed(() => session.value?.account.id)
const mayAssign = computed(() => decide(props.site.caller, 'entry.write').allowed)
const mayTake = computed(() => decide(props.site.caller, 'entry.translate', { locales: [props.locale] }).allowed)
/** Members who may translate into the locale. */
const members = computed(() =>
  props.site.members.filter(({ role, locales }) => role !== 'viewer' && (!locales || locales.includes(props.locale))),
)
const assignee = ref<string>()
const due = ref<string>()
const isOpen = ref(false)
function begin(): void {
  assignee.value = props.task?.assignee ?? undefined
  due.value = props.task?.due ?? undefined
}
function save(): void {
  emit('assign', assignee.value ?? null, due.value ?? null)
  isOpen.value = false
}
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
    <PopPanel v-if="mayAssign" v-model="isOpen" :label="t('translating.assign')" :width="280">
      <template #reference
        ><ElButton size="small" @click="begin">{{ t('translating.assign') }}</ElButton></template
      >
      <div class="form">
        <ElSelect v-model="assignee" clearable :placeholder="t('translating.nobody')" :aria-label="t('translating.who')"
          ><ElOption v-for="member in members" :key="member.account" :value="member.account" :label="member.name"
        /></ElSelect>
        <ElDatePicker
          v-model="due"
          type="date"
          value-format="YYYY-MM-DD"
          :placeholder="t('translating.noDate')"
          :aria-label="t('translating.until')"
        />
        <ElButton @click="save">{{ t('translating.assignNow') }}</ElButton>
      </div>
    </PopPanel>
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
.form {
  display: grid;
  gap: 8px;
}
.form :deep(.el-date-editor) {
  inline-size: 100%;
}
</style>
