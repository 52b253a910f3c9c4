<script setup lang="ts">
import type { Job } from '@wisteria/client'
import { ElProgress } from 'element-plus'
import { t } from '../messages'

/** How far long work is: in entries, or as a share where it is about more than entries. */
const { job, asShare = false } = defineProps<{ job: Job; asShare?: boolean }>()
</script>

<template>
  <ElProgress
    class="progress"
    :percentage="Math.round((100 * job.done) / Math.max(1, job.total))"
    :format="
      (share: number) => (asShare ? `${share} %` : t('common.entriesDone', { done: job.done, total: job.total }))
    "
  />
</template>

<style scoped>
.progress {
  inline-size: 420px;
}
</style>
