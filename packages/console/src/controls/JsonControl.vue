<script setup lang="ts">
import { kindOf } from '@wisteria/core'
import { ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import type { ControlEvents, ControlProps } from './control'
import { readJson } from './jsonText'

const props = defineProps<ControlProps>()
const emit = defineEmits<ControlEvents>()
const print = (value: unknown): string => (value === undefined || value === null ? '' : JSON.stringify(value, null, 2))
const written = ref(String(props.fault?.text ?? print(props.value)))
const reading = computed(() => readJson(written.value))
const told = computed(() => {
  if ('wrong' in reading.value) return reading.value.wrong
  const { value } = reading.value
  return value === undefined ? undefined : kindOf(props.field).checkRules(value, props.field.options)[0]?.message
})
watch(
  () => props.value,
  (now) => {
    const read = reading.value
    if ('value' in read && JSON.stringify(read.value) !== JSON.stringify(now)) written.value = print(now)
  },
)

function onInput(text: string): void {
  written.value = text
  const read = readJson(text)
  emit('unreadable', 'wrong' in read ? { text, message: read.wrong } : undefined)
  if ('value' in read) emit('change', read.value)
}
</script>

<template>
  <div class="json" dir="ltr">
    <ElInput
      :id="id"
      type="textarea"
      :autosize="{ minRows: 2, maxRows: 16 }"
      :model-value="written"
      :placeholder="field.example ?? '{ }'"
      :disabled="disabled"
      :aria-invalid="told !== undefined"
      spellcheck="false"
      @update:model-value="onInput"
    />
    <p v-if="told" class="error-text">{{ told }}</p>
  </div>
</template>

<style scoped>
.json :deep(textarea) {
  font: 13px/20px var(--w-code);
}
p {
  margin: 4px 0 0;
}
</style>
