<script setup lang="ts">
import { ElRadioButton, ElRadioGroup } from 'element-plus'
import type { ControlProps } from './control'

defineProps<ControlProps>()
defineEmits<{ change: [value: unknown] }>()
</script>

<template>
  <ElRadioGroup
    :id="id"
    :model-value="value === undefined || value === null ? '' : value ? 'yes' : 'no'"
    :disabled="disabled"
    @update:model-value="(chosen) => $emit('change', chosen === '' ? undefined : chosen === 'yes')"
  >
    <ElRadioButton value="yes">Yes</ElRadioButton>
    <ElRadioButton value="no">No</ElRadioButton>
    <ElRadioButton v-if="!field.required" value="">Not said</ElRadioButton>
  </ElRadioGroup>
</template>
