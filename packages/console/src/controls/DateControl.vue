<script setup lang="ts">
import { wallTimeIn, withOffset } from '@wisteria/core'
import { ElDatePicker } from 'element-plus'
import { computed } from 'vue'
import { useWorkingCopy } from '../editor/workingCopy'
import type { ControlProps } from './control'

const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()
const { site } = useWorkingCopy()
const hasTime = computed(() => props.field.kind === 'dateTime')
const zone = site.settings.timeZone
const shown = computed(() =>
  typeof props.value !== 'string' ? null : hasTime.value ? wallTimeIn(props.value, zone) : props.value,
)

function onPick(text: string | null): void {
  emit('change', !text ? undefined : hasTime.value ? withOffset(text, zone) : text)
}
</script>

<template>
  <div class="date">
    <ElDatePicker
      :id="id"
      :type="hasTime ? 'datetime' : 'date'"
      :model-value="shown"
      :value-format="hasTime ? 'YYYY-MM-DD[T]HH:mm:ss' : 'YYYY-MM-DD'"
      :format="hasTime ? 'D MMM YYYY, HH:mm' : 'D MMM YYYY'"
      :disabled="disabled"
      @update:model-value="onPick"
    />
    <span v-if="hasTime" class="quiet">{{ zone }}</span>
  </div>
</template>

<style scoped>
.date {
  display: flex;
  align-items: center;
  gap: 12px;
}
</style>
