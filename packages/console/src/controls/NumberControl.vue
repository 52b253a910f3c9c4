<script setup lang="ts">
import { ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import type { ControlProps } from './control'

const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()
const written = ref(props.value === undefined || props.value === null ? '' : String(props.value))
watch(
  () => props.value,
  (now) => {
    if (now !== read(written.value)) written.value = now === undefined || now === null ? '' : String(now)
  },
)
const unit = computed(() => props.field.options['unit'] as string | undefined)
const isWrong = computed(() => written.value.trim() !== '' && read(written.value) === undefined)

/** A comma is a decimal point to half of those who write numbers. */
function read(text: string): number | undefined {
  const number = Number(text.trim().replace(',', '.'))
  return text.trim() === '' || !Number.isFinite(number) ? undefined : number
}

function onInput(text: string): void {
  written.value = text
  if (text.trim() === '' || read(text) !== undefined) emit('change', read(text))
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
    <span v-if="isWrong" class="error-text"> This is not a number.</span>
  </div>
</template>

<style scoped>
.number {
  inline-size: 160px;
}
</style>
