<script setup lang="ts">
import { offsetsOf, wallTimeIn } from '@wisteria/core'
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { t } from '../messages'

/** A time in the future: local time in a zone. */
const { zone, from, verb } = defineProps<{
  /** The initial value. */
  zone: string
  /** The instant that it was planned for until now. */
  from?: string
  verb: string
}>()
const emit = defineEmits<{ schedule: [at: string, zone: string] }>()

const here = Intl.DateTimeFormat().resolvedOptions().timeZone
const zones = computed(() => [...new Set([zone, here, 'UTC', ...Intl.supportedValuesOf('timeZone')])])
const there = ref(zone)
/** At first: the next full hour, or when it was planned for. */
const begin = from ?? new Date(Math.ceil((Date.now() + 60_000) / 3_600_000) * 3_600_000).toISOString()
const local = ref(wallTimeIn(begin, zone).slice(0, 16))
/** The offsets that the time can have there: none where a clock change skips it, two where it comes twice. */
const offsets = computed(() => (local.value === '' ? [''] : offsetsOf(`${local.value}:00`, there.value)))
const offset = ref<string>()
watch([local, there], () => (offset.value = undefined))
const at = computed(() => {
  if (offsets.value.length < 2) return local.value
  return `${local.value}:00${offset.value ?? offsets.value[0]!}`
})
const isPast = computed(
  () => local.value !== '' && local.value <= wallTimeIn(new Date().toISOString(), there.value).slice(0, 16),
)
</script>

<template>
  <form class="time" @submit.prevent="emit('schedule', at, there)">
    <label class="visually-hidden" for="schedule-time">{{ t('schedules.time') }}</label>
    <input id="schedule-time" v-model="local" type="datetime-local" class="clock" required />
    <ElSelect v-model="there" filterable size="small" class="zone" :aria-label="t('schedules.timeZone')">
      <ElOption v-for="name in zones" :key="name" :value="name" :label="name" />
    </ElSelect>
    <ElButton size="small" native-type="submit" :disabled="local === '' || isPast || offsets.length === 0">{{
      verb
    }}</ElButton>
    <span v-if="isPast" class="error-text">{{ t('schedules.passed') }}</span>
    <span v-else-if="offsets.length === 0" class="error-text">{{ t('schedules.timeMissing') }}</span>
    <ElSelect
      v-else-if="offsets.length > 1"
      :model-value="offset ?? offsets[0]"
      size="small"
      class="which"
      :aria-label="t('schedules.timeTwice')"
      @update:model-value="(chosen: string) => (offset = chosen)"
    >
      <ElOption
        v-for="(item, index) in offsets"
        :key="item"
        :value="item"
        :label="`${index === 0 ? t('schedules.firstTime') : t('schedules.secondTime')} (${item})`"
      />
    </ElSelect>
  </form>
</template>

<style scoped>
.time {
  display: flex;
  align-items: center;
  gap: 8px;
}
.zone,
.which {
  inline-size: 190px;
}
</style>
