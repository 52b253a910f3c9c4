<script setup lang="ts">
import { wallTimeIn } from '@wisteria/core'
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'

/** A time to come: what the clocks somewhere show. */
const { zone, from, verb } = defineProps<{
  /** Where it is said at first. */
  zone: string
  /** The instant that it was planned for until now. */
  from?: string
  verb: string
}>()
const emit = defineEmits<{ plan: [at: string, zone: string] }>()

const own = Intl.DateTimeFormat().resolvedOptions().timeZone
const zones = computed(() => [...new Set([zone, own, 'UTC', ...Intl.supportedValuesOf('timeZone')])])
const there = ref(zone)
/** At first: the next full hour, or when it was planned for. */
const begin = from ?? new Date(Math.ceil((Date.now() + 60_000) / 3_600_000) * 3_600_000).toISOString()
const local = ref(wallTimeIn(begin, zone).slice(0, 16))
const isPast = computed(
  () => local.value !== '' && local.value <= wallTimeIn(new Date().toISOString(), there.value).slice(0, 16),
)
</script>

<template>
  <form class="time" @submit.prevent="emit('plan', local, there)">
    <label class="visually-hidden" for="plan-time">Time</label>
    <input id="plan-time" v-model="local" type="datetime-local" class="clock" required />
    <ElSelect v-model="there" filterable size="small" class="zone" aria-label="Time zone">
      <ElOption v-for="one in zones" :key="one" :value="one" :label="one" />
    </ElSelect>
    <ElButton size="small" native-type="submit" :disabled="local === '' || isPast">{{ verb }}</ElButton>
    <span v-if="isPast" class="error-text">That has passed.</span>
  </form>
</template>

<style scoped>
.time {
  display: flex;
  align-items: center;
  gap: 8px;
}
.clock {
  padding: 2px 8px;
  border: 1px solid var(--w-rule);
  border-radius: 2px;
  background: var(--w-paper);
  color-scheme: light dark;
}
.zone {
  inline-size: 190px;
}
</style>
