<script setup lang="ts">
import type { Freshness } from '@wisteria/core'
import { Check, SemiSelect, Warning } from '@element-plus/icons-vue'
import { ElIcon } from 'element-plus'

/** Whether a translation is current; nothing where there is none. The words stand beside it. */
const { freshness } = defineProps<{ freshness: Freshness | undefined }>()
</script>

<template>
  <ElIcon v-if="freshness && freshness !== 'missing'" class="freshness" :class="freshness" aria-hidden="true"
    ><Check v-if="freshness === 'current'" /><SemiSelect v-else-if="freshness === 'partial'" /><Warning v-else
  /></ElIcon>
</template>

<style scoped>
.freshness {
  font-size: 12px;
  color: var(--w-ink2);
  vertical-align: -2px;
}
.outdated {
  color: var(--w-edited);
}
</style>
