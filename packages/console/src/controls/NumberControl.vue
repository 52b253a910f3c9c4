<script setup lang="ts">
import { ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import type { ControlEvents, ControlProps } from './control'
import { t } from '../messages'

const props = defineProps<ControlProps>()
const emit = defineEmits<ControlEvents>()
const print = (value: unknown): string => (value === undefined || value === null ? '' : String(value))
const written = ref(String(props.fault?.text ?? print(props.value)))
watch(
  () => props.value,
  (now) => {
    if (!isWrong.value && now !== read(written.value)) written.value = print(now)
  },
)
const unit = computed(() => props.field.options['unit'] as string | undefined)
const isWrong = computed(() => written.value.trim() !== '' && read(written.value) === undefined)

const notNumber = t('controls.notANumber')

/** A comma is a decimal point to half of those who write numbers. */
function read(text: string): number | undefined {
  const number = Number(text.trim().replace(',', '.'))
  return text.trim() === '' || !Number.isFinite(number) ? undefined : number
}

function onInput(text: string): void {
  written.value = text
  emit('unreadable', isWrong.value ? { text, message: notNumber } : undefined)
  if (!isWrong.value) emit('change', read(text))
}
</script>

<template>
  <div>
    <ElInput
      :id="id"
      class="number"
      inputmode="decimal"
      :model-value="written"
      :disabled="disabled"
      :aria-invalid="isWrong"
      @update:model-value="onInput"
    >
      <template v-if="unit" #suffix>{{ unit }}</template>
    </ElInput>
    <span v-if="isWrong" class="error-text"> {{ notNumber }}</span>
  </div>
</template>

<style scoped>
.number {
  inline-size: 160px;
}
</style>
