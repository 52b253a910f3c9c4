<script setup lang="ts">
import type { UnitState } from '@wisteria/core'
import { computed } from 'vue'
import { t } from '../messages'

/** The state of a unit as a sign: missing a ring, outdated a hatched one, done a tick. */
const { state } = defineProps<{ state: UnitState }>()
const label = computed(() => t(`translating.states.${state}`))
</script>

<template>
  <svg viewBox="0 0 14 14" role="img" :aria-label="label" :class="state">
    <title>{{ label }}</title>
    <defs v-if="state === 'outdated'">
      <pattern id="hatch" width="3" height="3" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="1.4" height="3" fill="currentColor" />
      </pattern>
    </defs>
    <circle v-if="state === 'missing'" cx="7" cy="7" r="5" fill="none" stroke="currentColor" stroke-width="1.5" />
    <circle
      v-else-if="state === 'outdated'"
      cx="7"
      cy="7"
      r="5"
      fill="url(#hatch)"
      stroke="currentColor"
      stroke-width="1.5"
    />
    <path
      v-else-if="state === 'current'"
      d="M2.5 7.5 5.5 10.5 11.5 3.5"
      fill="none"
      stroke="currentColor"
      stroke-width="1.7"
    />
    <path v-else-if="state === 'notNeeded'" d="M3 7h8" stroke="currentColor" stroke-width="1.7" />
    <path v-else d="M4 4l6 6M10 4l-6 6" stroke="currentColor" stroke-width="1.5" />
  </svg>
</template>

<style scoped>
svg {
  inline-size: 14px;
  block-size: 14px;
  color: var(--w-ink2);
}
.outdated {
  color: var(--w-edited);
}
.missing {
  color: var(--w-ink);
}
</style>
