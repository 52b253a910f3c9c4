<script setup lang="ts">
import type { Job } from '@wisteria/client'
import { ElProgress } from 'element-plus'
import { t } from '../messages'

/** How far long work is. */
const { job } = defineProps<{ job: Job }>()
</script>

<template>
  <ElProgress
    class="progress"
    :percentage="Math.round((100 * job.done) / Math.max(1, job.total))"
    :format="() => t('common.entriesDone', { done: job.done, total: job.total })"
  />
</template>

<style scoped>
.progress {
  inline-size: 420px;
}
</style>
