<script setup lang="ts">
import { ElRadioButton, ElRadioGroup } from 'element-plus'
import type { ControlProps } from './control'
import { t } from '../messages'

defineProps<ControlProps>()
defineEmits<{ change: [value: unknown] }>()
</script>

<template>
  <ElRadioGroup
    :id="id"
    :aria-label="field.label"
    :model-value="value === undefined || value === null ? '' : value ? 'yes' : 'no'"
    :disabled="disabled"
    @update:model-value="(chosen) => $emit('change', chosen === '' ? undefined : chosen === 'yes')"
  >
    <ElRadioButton value="yes">{{ t('common.yes') }}</ElRadioButton>
    <ElRadioButton value="no">{{ t('common.no') }}</ElRadioButton>
    <ElRadioButton v-if="!field.required" value="">{{ t('controls.notSaid') }}</ElRadioButton>
  </ElRadioGroup>
</template>
