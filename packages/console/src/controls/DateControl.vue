<script setup lang="ts">
import { readZoned, wallTimeIn, withOffset } from '@wisteria/core'
import { ElDatePicker, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import { useWorkingCopy } from '../editor/workingCopy'
import type { ControlProps } from './control'

const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()
const { site } = useWorkingCopy()
const hasTime = computed(() => props.field.kind === 'dateTime')
const withZone = computed(() => props.field.options['withZone'] === true)
const zones = computed(() => Intl.supportedValuesOf('timeZone'))
const chosenZone = ref<string>()
/** The zone that was meant: the value's own, or the site's. */
const zone = computed(
  () =>
    (withZone.value ? (readZoned(String(props.value ?? ''))?.zone ?? chosenZone.value) : undefined) ??
    site.settings.timeZone,
)
const shown = computed(() =>
  typeof props.value !== 'string'
    ? null
    : !hasTime.value
      ? props.value
      : (readZoned(props.value)?.local ?? wallTimeIn(props.value, zone.value)),
)

function onPick(text: string | null): void {
  emit('change', !text ? undefined : hasTime.value ? timeIn(text, zone.value) : text)
}

const timeIn = (text: string, name: string): string => withOffset(text, name) + (withZone.value ? `[${name}]` : '')

/** The time on the clock stays: it is meant somewhere else. */
function onZone(name: string): void {
  chosenZone.value = name
  if (typeof shown.value === 'string') emit('change', timeIn(shown.value, name))
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
    <ElSelect
      v-if="withZone"
      class="zone"
      filterable
      :model-value="zone"
      :disabled="disabled"
      :aria-label="`${field.label}: time zone`"
      @update:model-value="onZone"
    >
      <ElOption v-for="name in zones" :key="name" :value="name" :label="name" />
    </ElSelect>
    <span v-else-if="hasTime" class="quiet">{{ zone }}</span>
  </div>
</template>

<style scoped>
.zone {
  inline-size: 220px;
}
.date {
  display: flex;
  align-items: center;
  gap: 12px;
}
</style>
