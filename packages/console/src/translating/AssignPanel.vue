<script setup lang="ts">
import type { TranslationTask } from '@wisteria/core'
import { ElButton, ElDatePicker, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import PopPanel from '../components/PopPanel.vue'
import type { Site } from '../session'
import { t } from '../messages'

/** A button that opens a panel: who translates into the locale, and until when. */
const props = defineProps<{
  site: Site
  locale: string
  /** Of the button. */
  label: string
  /** The assignment that the form begins with. */
  task?: TranslationTask | null
}>()
const emit = defineEmits<{ assign: [assignee: string | null, due: string | null] }>()

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
</script>

<template>
  <PopPanel v-model="isOpen" :label="label" :width="280">
    <template #reference
      ><ElButton size="small" @click="begin">{{ label }}</ElButton></template
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
</template>

<style scoped>
.form {
  display: grid;
  gap: 8px;
}
.form :deep(.el-date-editor) {
  inline-size: 100%;
}
</style>
