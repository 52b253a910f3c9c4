<script setup lang="ts">
import { ElButton, ElPopconfirm } from 'element-plus'
import { t } from '../messages'

/** A button that asks for confirmation, in a sentence with the consequences. */
const {
  label,
  question,
  verb,
  size = 'small',
  isHarmless = false,
} = defineProps<{
  label: string
  question: string
  /** The text of the confirming button. */
  verb: string
  size?: 'small' | 'default'
  /** Whether nothing is lost by it: then it does not look destructive. */
  isHarmless?: boolean
}>()
defineEmits<{ confirm: [] }>()
</script>

<template>
  <ElPopconfirm
    :title="question"
    :confirm-button-text="verb"
    :confirm-button-type="isHarmless ? 'primary' : 'danger'"
    :cancel-button-text="t('common.cancel')"
    width="280"
    @confirm="$emit('confirm')"
  >
    <template #reference
      ><ElButton :size="size">{{ label }}</ElButton></template
    >
  </ElPopconfirm>
</template>
