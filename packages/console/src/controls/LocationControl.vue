<script setup lang="ts">
import { ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import type { ControlProps } from './control'

/** Two numbers, or both at once as maps copy them: `52.98, 4.72`. */
const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()

interface Place {
  readonly latitude?: number
  readonly longitude?: number
}
const place = computed(() => (props.value ?? {}) as Place)
const written = ref({ latitude: '', longitude: '' })
const print = (value: number | undefined) => (value === undefined ? '' : String(value))
const show = () => (written.value = { latitude: print(place.value.latitude), longitude: print(place.value.longitude) })
show()
watch(place, (now) => {
  const read = both()
  if (read?.latitude !== now.latitude || read?.longitude !== now.longitude)
    if (now.latitude !== undefined || read) show()
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
const wrong = computed(() =>
  (['latitude', 'longitude'] as const).filter(
    (member) => written.value[member].trim() !== '' && read(member) === undefined,
  ),
)

function onInput(member: keyof typeof limits, text: string): void {
  const pair = /^\s*(-?\d+(?:\.\d+)?)\s*[,;\s]\s*(-?\d+(?:\.\d+)?)\s*$/.exec(text)
  written.value = pair ? { latitude: pair[1]!, longitude: pair[2]! } : { ...written.value, [member]: text }
  const isEmpty = written.value.latitude.trim() === '' && written.value.longitude.trim() === ''
  if (isEmpty) emit('change', undefined)
  else if (both()) emit('change', both())
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
      <template #suffix>° north</template>
    </ElInput>
    <ElInput
      :model-value="written.longitude"
      :disabled="disabled"
      :aria-label="`${field.label}: degrees east`"
      placeholder="4.72"
      inputmode="decimal"
      @update:model-value="onInput('longitude', $event)"
    >
      <template #suffix>° east</template>
    </ElInput>
    <span v-if="wrong.length > 0" class="error-text"
      >Degrees {{ wrong.includes('latitude') ? 'north go from -90 to 90' : 'east go from -180 to 180' }}.</span
    >
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
