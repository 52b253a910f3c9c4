<script setup lang="ts">
import { ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import type { ControlEvents, ControlProps } from './control'
import { t } from '../messages'

/** Two numbers, or both at once as maps copy them: `52.98, 4.72`. */
const props = defineProps<ControlProps>()
const emit = defineEmits<ControlEvents>()

interface Place {
  readonly latitude?: number
  readonly longitude?: number
}
const place = computed(() => (props.value ?? {}) as Place)
const written = ref({ latitude: '', longitude: '' })
const print = (value: number | undefined) => (value === undefined ? '' : String(value))
const show = () => (written.value = { latitude: print(place.value.latitude), longitude: print(place.value.longitude) })
if (props.fault) written.value = props.fault.text as { latitude: string; longitude: string }
else show()
watch(place, (now) => {
  const read = both()
  if (trouble.value === undefined && (read?.latitude !== now.latitude || read?.longitude !== now.longitude)) show()
})

const limits = { latitude: 90, longitude: 180 } as const
function read(member: keyof typeof limits): number | undefined {
  const text = written.value[member].trim().replace(',', '.')
  const number = Number(text)
  return text === '' || !Number.isFinite(number) || Math.abs(number) > limits[member] ? undefined : number
}
const both = () => {
  const [latitude, longitude] = [read('latitude'), read('longitude')]
  return latitude === undefined || longitude === undefined ? undefined : { latitude, longitude }
}
const members = ['latitude', 'longitude'] as const
const wrong = computed(() =>
  members.filter((member) => written.value[member].trim() !== '' && read(member) === undefined),
)
const isEmpty = (member: keyof typeof limits): boolean => written.value[member].trim() === ''
/** Why the text is no place. */
const trouble = computed(() => {
  if (wrong.value.includes('latitude')) return t('controls.northRange')
  if (wrong.value.includes('longitude')) return t('controls.eastRange')
  if (isEmpty('latitude') !== isEmpty('longitude'))
    return isEmpty('latitude') ? t('controls.northMissing') : t('controls.eastMissing')
  return undefined
})

function onInput(member: keyof typeof limits, text: string): void {
  const pair = /^\s*(-?\d+(?:\.\d+)?)\s*[,;\s]\s*(-?\d+(?:\.\d+)?)\s*$/.exec(text)
  written.value = pair ? { latitude: pair[1]!, longitude: pair[2]! } : { ...written.value, [member]: text }
  emit('unreadable', trouble.value ? { text: written.value, message: trouble.value } : undefined)
  if (!trouble.value) emit('change', both())
}
</script>

<template>
  <div class="place">
    <ElInput
      :id="id"
      :model-value="written.latitude"
      :disabled="disabled"
      placeholder="52.98"
      inputmode="decimal"
      @update:model-value="onInput('latitude', $event)"
    >
      <template #suffix>{{ t('controls.north') }}</template>
    </ElInput>
    <ElInput
      :model-value="written.longitude"
      :disabled="disabled"
      :aria-label="t('controls.degreesEastOf', { field: field.label })"
      placeholder="4.72"
      inputmode="decimal"
      @update:model-value="onInput('longitude', $event)"
    >
      <template #suffix>{{ t('controls.east') }}</template>
    </ElInput>
    <span v-if="trouble" class="error-text">{{ trouble }}</span>
  </div>
</template>

<style scoped>
.place {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
}
.place :deep(.el-input) {
  inline-size: 180px;
}
.error-text {
  flex-basis: 100%;
}
</style>
