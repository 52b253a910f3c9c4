<script setup lang="ts">
import type { State } from '@wisteria/core'
import { computed } from 'vue'
import { t } from '../messages'

const { state, label } = defineProps<{ state: State | 'fallback' | 'scheduled'; label?: string }>()

const text = computed(() => label ?? t(`states.${state}`))
</script>

<template>
  <svg class="mark" :class="state" viewBox="0 0 14 14" width="14" height="14" role="img" :aria-label="text">
    <title>{{ text }}</title>
    <circle v-if="state === 'new'" cx="7" cy="7" r="5" stroke-dasharray="2.4 2" />
    <circle v-else-if="state === 'public'" class="fill" cx="7" cy="7" r="5.5" />
    <template v-else-if="state === 'edited'">
      <circle cx="7" cy="7" r="5" />
      <path class="fill" d="M7 1.5 A5.5 5.5 0 0 0 7 12.5 Z" />
    </template>
    <circle v-else-if="state === 'withdrawn'" cx="7" cy="7" r="5" />
    <template v-else-if="state === 'archived'">
      <circle cx="7" cy="7" r="5" />
      <path d="M3.5 10.5 L10.5 3.5" />
    </template>
    <template v-else-if="state === 'scheduled'">
      <circle cx="7" cy="7" r="5" />
      <path d="M7 4 V7 L9 8.5" />
    </template>
    <path v-else d="M3 2 V8 H10 M7.5 5 L10.5 8 L7.5 11" />
  </svg>
</template>

<style scoped>
.mark {
  flex: none;
  fill: none;
  stroke: var(--w-ink2);
  stroke-width: 1.5;
  vertical-align: -2px;
}
.public {
  stroke: none;
}
.public .fill {
  fill: var(--w-public);
}
.edited {
  stroke: var(--w-edited);
}
.edited .fill {
  fill: var(--w-edited);
  stroke: none;
}
</style>
