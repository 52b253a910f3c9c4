<script setup lang="ts">
import { ElInput } from 'element-plus'
import type { ControlProps } from './control'

defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()

function onInput(text: string): void {
  const slug = text.toLowerCase().replace(/\s+/g, '-')
  emit('change', slug === '' ? undefined : slug)
}
</script>

<template>
  <ElInput
    :id="id"
    class="slug"
    :model-value="String(value ?? '')"
    :placeholder="typeof fallback === 'string' ? fallback : 'made from the name'"
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
