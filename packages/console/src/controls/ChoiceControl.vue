<script setup lang="ts">
import { makeItemId, shapeOf } from '@wisteria/core'
import { ElCheckbox, ElCheckboxGroup, ElOption, ElRadioButton, ElRadioGroup, ElSelect } from 'element-plus'
import { computed } from 'vue'
import type { ControlProps } from './control'
import { random } from './reordering'
import { t } from '../messages'

const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()
const options = computed(() => {
  const shape = shapeOf(props.field)
  return shape.is === 'choice' ? shape.options : []
})
/** In the locale that is being written, where an option has a label in it. */
const labelOf = (option: { label: string; labels?: Readonly<Record<string, string>> | undefined }): string =>
  option.labels?.[props.locale] ?? option.label
const items = computed(() => (Array.isArray(props.value) ? (props.value as { id: string; value: string }[]) : []))
const chosen = computed(() => items.value.map((item) => item.value))

/** Many are kept in the order in which they were chosen, each with its id. */
function pickMany(values: readonly unknown[]): void {
  const next = (values as string[]).map(
    (value) => items.value.find((item) => item.value === value) ?? { id: makeItemId({ random }), value },
  )
  emit('change', next.length > 0 ? next : undefined)
}

/** A few short options are all shown at once. */
const isShort = computed(
  () => options.value.length <= 5 && options.value.reduce((sum, option) => sum + option.label.length, 0) <= 48,
)
const pick = (chosen: unknown): void =>
  emit('change', chosen === '' || chosen === undefined || chosen === null ? undefined : chosen)
</script>

<template>
  <ElCheckboxGroup
    v-if="field.many && options.length <= 9"
    :id="id"
    :model-value="chosen"
    :disabled="disabled"
    @update:model-value="pickMany"
  >
    <ElCheckbox v-for="option in options" :key="option.value" :value="option.value">{{ labelOf(option) }}</ElCheckbox>
  </ElCheckboxGroup>
  <ElSelect
    v-else-if="field.many"
    :id="id"
    class="choice"
    filterable
    multiple
    :model-value="chosen"
    :placeholder="t('controls.chooseSome')"
    :disabled="disabled"
    @update:model-value="pickMany"
  >
    <ElOption v-for="option in options" :key="option.value" :value="option.value" :label="labelOf(option)" />
  </ElSelect>
  <ElRadioGroup
    v-else-if="isShort"
    :id="id"
    :aria-label="field.label"
    :model-value="String(value ?? '')"
    :disabled="disabled"
    @update:model-value="pick"
  >
    <ElRadioButton v-for="option in options" :key="option.value" :value="option.value">{{
      labelOf(option)
    }}</ElRadioButton>
    <ElRadioButton v-if="!field.required" value="">{{ t('controls.none') }}</ElRadioButton>
  </ElRadioGroup>
  <ElSelect
    v-else
    :id="id"
    class="choice"
    filterable
    :clearable="!field.required"
    :model-value="value as string"
    :placeholder="t('controls.choose')"
    :disabled="disabled"
    @update:model-value="pick"
  >
    <ElOption v-for="option in options" :key="option.value" :value="option.value" :label="labelOf(option)" />
  </ElSelect>
</template>

<style scoped>
.choice {
  inline-size: 320px;
}
</style>
