<script setup lang="ts">
import { ElProgress } from 'element-plus'
import type { Upload } from './upload'
import { t } from '../messages'

/** Running uploads, and refused files. */
const { uploads } = defineProps<{ uploads: readonly Upload[] }>()
</script>

<template>
  <ul v-if="uploads.some((upload) => !upload.asset)" class="uploads" :aria-label="t('assets.filesOnTheirWay')">
    <li v-for="(item, index) in uploads.filter((upload) => !upload.asset)" :key="index">
      <bdi>{{ item.name }}</bdi>
      <span v-if="item.failure" class="error-text" role="alert">{{ item.failure }}</span>
      <ElProgress v-else :percentage="Math.round(item.share * 100)" :stroke-width="4" />
    </li>
  </ul>
</template>

<style scoped>
.uploads {
  list-style: none;
  margin: 0 0 12px;
  padding: 0;
  font-size: 13px;
}
.uploads li {
  display: grid;
  grid-template-columns: minmax(0, 200px) minmax(0, 1fr);
  gap: 12px;
  align-items: center;
}
</style>
