<script setup lang="ts">
import { ElButton } from 'element-plus'
import { useId } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import { t } from '../messages'

/** A form that unfolds from the strip, as high as it needs. Labels and controls are its content. */
const open = defineModel<boolean>({ required: true })
const {
  title,
  problems,
  submit,
  isBusy = false,
} = defineProps<{
  title: string
  problems: readonly string[]
  /** The text of its button. */
  submit: string
  isBusy?: boolean
}>()
defineEmits<{ submit: [] }>()
const id = useId()
/** The sheet takes a moment to open. Whoever is in the form by then stays there: a focus that moves scrolls what they click away. */
function focusFirst(): void {
  const form = document.getElementById(id)
  if (form && !form.contains(document.activeElement)) form.querySelector<HTMLElement>('input, textarea')?.focus()
}
</script>

<template>
  <ConsequenceSheet v-model="open" :title="title" fits @opened="focusFirst">
    <form :id="id" class="form" @submit.prevent="$emit('submit')">
      <slot />
      <p v-for="problem in problems" :key="problem" class="error-text" role="alert">{{ problem }}</p>
    </form>
    <template #foot>
      <ElButton :disabled="isBusy" @click="open = false">{{ t('common.cancel') }}</ElButton>
      <ElButton type="primary" native-type="submit" :form="id" :loading="isBusy">{{ submit }}</ElButton>
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
.form {
  display: grid;
  gap: 4px;
  max-inline-size: 624px;
}
.form :deep(label:not(.el-radio, .el-checkbox)),
.form :deep(.label) {
  margin-block-start: 12px;
  font-size: 13px;
  color: var(--w-ink2);
}
.form :deep(p) {
  margin: 0;
}
</style>
