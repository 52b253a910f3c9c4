<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { t } from '../messages'
import type { HeaderDraft } from './headers'

/** The headers of a webhook: a line each. Values that are stored are never shown; typing sets another. */
const headers = defineModel<HeaderDraft[]>({ required: true })
const add = (): unknown => headers.value.push({ name: '', value: '' })
</script>

<template>
  <ul v-if="headers.length > 0" :aria-label="t('webhooks.headers')">
    <li v-for="(header, index) in headers" :key="index">
      <ElInput
        v-model="header.name"
        dir="ltr"
        maxlength="80"
        :disabled="header.value === undefined"
        :aria-label="t('webhooks.headerName', { n: index + 1 })"
      />
      <ElInput
        v-model="header.value"
        dir="ltr"
        maxlength="2000"
        :aria-label="t('webhooks.headerValue', { n: index + 1 })"
        :placeholder="header.value === undefined ? t('webhooks.headerStored') : ''"
      />
      <ElButton :aria-label="t('webhooks.headerRemove', { n: index + 1 })" @click="headers.splice(index, 1)">{{
        t('common.remove')
      }}</ElButton>
    </li>
  </ul>
  <span
    ><ElButton size="small" @click="add">{{ t('webhooks.headerAdd') }}</ElButton></span
  >
</template>

<style scoped>
ul {
  display: grid;
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 3fr) auto;
  gap: 8px;
}
@media (max-width: 600px) {
  li {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
