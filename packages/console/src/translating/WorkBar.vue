<script setup lang="ts">
import type { WorkCount } from '@wisteria/core'
import { computed } from 'vue'
import { t } from '../messages'

/** How far translations are, as a bar: solid what is done, hatched what is outdated, hollow what is missing. */
const { units } = defineProps<{ units: WorkCount }>()
const all = computed(() => Math.max(1, units.missing + units.outdated + units.done))
/** A part that exists can be seen, however small. */
const width = (part: number): string => (part === 0 ? '0' : `max(3px, ${(part / all.value) * 100}%)`)
</script>

<template>
  <span
    class="bar"
    role="img"
    :aria-label="t('translating.barWords', { ...units })"
    :title="t('translating.barWords', { ...units })"
  >
    <span class="done" :style="{ inlineSize: width(units.done) }" />
    <span class="outdated" :style="{ inlineSize: width(units.outdated) }" />
  </span>
</template>

<style scoped>
.bar {
  display: flex;
  block-size: 8px;
  border: 1px solid var(--w-rule);
  border-radius: 2px;
  overflow: hidden;
}
.done {
  background: var(--w-ink2);
}
.outdated {
  background: repeating-linear-gradient(-45deg, var(--w-edited) 0 2px, transparent 2px 4px);
}
</style>
