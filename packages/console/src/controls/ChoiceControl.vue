<script setup lang="ts">
import { shapeOf } from '@wisteria/core'
import { ElOption, ElRadioButton, ElRadioGroup, ElSelect } from 'element-plus'
import { computed } from 'vue'
import type { ControlProps } from './control'

const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()
const options = computed(() => {
  const shape = shapeOf(props.field)
  return shape.is === 'choice' ? shape.options : []
})
/** A few short options are all shown at once. */
const isShort = computed(
  () => options.value.length <= 5 && options.value.reduce((sum, one) => sum + one.label.length, 0) <= 48,
)
const pick = (chosen: unknown): void =>
  emit('change', chosen === '' || chosen === undefined || chosen === null ? undefined : chosen)
</script>

<template>
  <ElRadioGroup
    v-if="isShort"
    :id="id"
    :model-value="String(value ?? '')"
    :disabled="disabled"
    @update:model-value="pick"
  >
    <ElRadioButton v-for="option in options" :key="option.value" :value="option.value">{{
      option.label
    }}</ElRadioButton>
    <ElRadioButton v-if="!field.required" value="">None</ElRadioButton>
  </ElRadioGroup>
  <ElSelect
    v-else
    :id="id"
    class="choice"
    filterable
    :clearable="!field.required"
    :model-value="value as string"
    placeholder="Choose"
    :disabled="disabled"
    @update:model-value="pick"
  >
    <ElOption v-for="option in options" :key="option.value" :value="option.value" :label="option.label" />
  </ElSelect>
</template>

<style scoped>
.choice {
  inline-size: 320px;
}
</style>
