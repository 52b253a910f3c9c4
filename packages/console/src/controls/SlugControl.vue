<script setup lang="ts">
import { kindOf } from '@wisteria/core'
import { ElInput } from 'element-plus'
import type { ControlEvents, ControlProps } from './control'
import { formMessage, t } from '../messages'

const props = defineProps<ControlProps>()
const emit = defineEmits<ControlEvents>()

function onInput(text: string): void {
  const slug = text.toLowerCase().replace(/\s+/g, '-')
  const wrong = slug === '' ? undefined : kindOf(props.field).checkForm(slug, props.field.options)
  emit(
    'unreadable',
    wrong === undefined
      ? undefined
      : { text: slug, message: t('controls.wrong', { what: formMessage('slug', wrong) }) },
  )
  if (wrong === undefined) emit('change', slug === '' ? undefined : slug)
}
</script>

<template>
  <ElInput
    :id="id"
    class="slug"
    :model-value="String(fault?.text ?? value ?? '')"
    :aria-invalid="fault !== undefined"
    :placeholder="typeof fallback === 'string' ? fallback : ''"
    :disabled="disabled"
    spellcheck="false"
    @update:model-value="onInput"
  />
</template>

<style scoped>
.slug :deep(input) {
  font-family: var(--w-code);
}
</style>
