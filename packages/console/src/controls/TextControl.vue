<script setup lang="ts">
import { ElInput, type InputInstance } from 'element-plus'
import { computed, nextTick, onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'
import type { ControlProps } from './control'
import { t } from '../messages'

const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()
const length = computed(() => props.field.options['length'] as { max?: number } | undefined)
const isLong = computed(() => props.field.kind === 'longText')
const size = computed(() => [...String(props.value ?? '')].length)

// The height follows the text by itself, but not the width of the control or the font size.
const box = useTemplateRef<HTMLElement>('box')
const input = useTemplateRef<InputInstance>('input')
const fit = () => void nextTick(() => input.value?.resizeTextarea())
let width = 0
const observer = new ResizeObserver(([entry]) => {
  if (!entry || entry.contentRect.width === width) return
  width = entry.contentRect.width
  fit()
})
onMounted(() => box.value && observer.observe(box.value))
onBeforeUnmount(() => observer.disconnect())
watch(() => [props.locale, props.fallback], fit)
void document.fonts?.ready.then(fit)

function onInput(text: string): void {
  const clean = isLong.value ? text : text.replace(/[\r\n]+/g, ' ')
  emit('change', clean === '' ? undefined : clean)
}

/** One line of text wraps, so that a long title is visible as a whole; Enter does not begin another. */
function onEnter(event: Event): void {
  if (!isLong.value) event.preventDefault()
}
</script>

<template>
  <div ref="box" class="written" :class="{ naming: isNaming, long: isLong }" :dir="direction" :lang="locale">
    <ElInput
      :id="id"
      ref="input"
      type="textarea"
      autosize
      resize="none"
      :model-value="String(value ?? '')"
      :placeholder="typeof fallback === 'string' ? fallback : (field.example ?? '')"
      :disabled="disabled"
      @update:model-value="onInput"
      @keydown.enter="onEnter"
    />
    <span v-if="length?.max && size > length.max * 0.8" class="count" :class="{ 'error-text': size > length.max }">{{
      t('common.sizeOf', { size, max: length.max })
    }}</span>
  </div>
</template>

<style scoped>
.written {
  position: relative;
}
.written :deep(.el-textarea__inner) {
  padding: 2px 0 4px;
  box-shadow: none;
  border: 0;
  border-block-end: 1px solid var(--w-rule);
  border-radius: 0;
  background: none;
  font: 17px/28px var(--w-content);
  color: var(--w-ink);
}
.written :deep(.el-textarea__inner:focus) {
  border-block-end-color: var(--w-accent);
  box-shadow: 0 1px 0 var(--w-accent);
}
.written :deep(.el-textarea__inner::placeholder) {
  color: var(--w-ink2);
}
.naming :deep(.el-textarea__inner) {
  font-size: 30px;
  line-height: 38px;
}
.written:lang(ar) :deep(.el-textarea__inner) {
  font-size: 18.7px;
  line-height: 1.8;
}
.naming:lang(ar) :deep(.el-textarea__inner) {
  font-size: 32px;
  line-height: 1.6;
}
.count {
  position: absolute;
  inset-inline-end: 0;
  inset-block-end: -18px;
  font: 12px/16px var(--w-interface);
  color: var(--w-ink2);
}
</style>
