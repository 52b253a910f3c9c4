<script setup lang="ts">
import { kindOf, printSpan } from '@wisteria/core'
import { ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import type { ControlEvents, ControlProps } from './control'
import { readSpan } from './spans'
import { formMessage, t } from '../messages'

/** One line with a form of its own: an address, a colour, a length of time. An invalid text stays in the line, with a problem. */
const props = defineProps<ControlProps>()
const emit = defineEmits<ControlEvents>()
const isSpan = computed(() => props.field.kind === 'timeSpan')
const print = (value: unknown): string => (typeof value !== 'string' ? '' : isSpan.value ? printSpan(value) : value)
const written = ref(String(props.fault?.text ?? print(props.value)))

/** The value that a line means; undefined when it is empty or does not fit. */
function read(text: string): string | undefined {
  const value = isSpan.value ? readSpan(text) : text.trim()
  return value !== undefined && value !== '' && kindOf(props.field).checkForm(value, props.field.options) === undefined
    ? value
    : undefined
}
const wrong = computed(() =>
  written.value.trim() === '' || read(written.value) !== undefined
    ? undefined
    : isSpan.value
      ? t('controls.mustBeSpan')
      : formMessage(props.field.kind, kindOf(props.field).checkForm(written.value.trim(), props.field.options) ?? ''),
)
const trouble = computed(() => t('controls.wrong', { what: (wrong.value ?? '').replaceAll('`', '') }))
watch(
  () => props.value,
  (now) => {
    if (wrong.value === undefined && now !== read(written.value)) written.value = print(now)
  },
)

function onInput(text: string): void {
  written.value = text
  emit('unreadable', wrong.value === undefined ? undefined : { text, message: trouble.value })
  if (wrong.value === undefined) emit('change', read(text))
}

const hints: Record<string, string> = {
  timeSpan: t('controls.exampleSpan'),
  colour: '#23607a',
  email: 'ask@marram.example',
  webAddress: t('controls.exampleAddress'),
}
const shade = computed(() =>
  /^#[0-9a-fA-F]{6}/.test(String(props.value ?? '')) ? String(props.value).slice(0, 7) : '#ffffff',
)
</script>

<template>
  <div class="line">
    <input
      v-if="field.kind === 'colour'"
      type="color"
      :value="shade"
      :disabled="disabled"
      :aria-label="t('controls.pick', { field: field.label })"
      @input="onInput(($event.target as HTMLInputElement).value)"
    />
    <ElInput
      :id="id"
      :class="{ short: field.kind === 'colour' || isSpan }"
      :model-value="written"
      :placeholder="typeof fallback === 'string' ? print(fallback) : (field.example ?? hints[field.kind] ?? '')"
      :disabled="disabled"
      :inputmode="field.kind === 'email' ? 'email' : field.kind === 'webAddress' ? 'url' : 'text'"
      :aria-invalid="wrong !== undefined"
      dir="ltr"
      spellcheck="false"
      @update:model-value="onInput"
    />
    <a
      v-if="field.kind === 'webAddress' && !wrong && value"
      :href="String(value)"
      target="_blank"
      rel="noreferrer noopener"
      >{{ t('common.open') }}</a
    >
    <span v-if="wrong" class="error-text">{{ trouble }}</span>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
}
.line :deep(.el-input) {
  flex: 1 1 240px;
}
.line :deep(.short) {
  flex: 0 0 160px;
}
input[type='color'] {
  inline-size: 32px;
  block-size: 32px;
  padding: 0;
  border: 1px solid var(--w-rule);
  border-radius: 2px;
  background: none;
}
.error-text {
  flex-basis: 100%;
}
</style>
