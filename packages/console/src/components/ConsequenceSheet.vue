<script setup lang="ts">
import { ElDrawer } from 'element-plus'

/** Everything with consequences unfolds here, upward from the strip: what changes, what it touches, what blocks it. */
const open = defineModel<boolean>({ required: true })
const { title } = defineProps<{ title: string }>()
</script>

<template>
  <ElDrawer
    v-model="open"
    direction="btt"
    size="76%"
    :title="title"
    class="sheet"
    :append-to-body="true"
    :lock-scroll="false"
  >
    <template #header="{ titleId, titleClass }">
      <h2 :id="titleId" :class="titleClass">{{ title }}</h2>
    </template>
    <slot />
    <template #footer><slot name="foot" /></template>
  </ElDrawer>
</template>

<style>
.sheet .el-drawer__header {
  margin: 0;
  padding: 16px 24px;
  color: var(--w-ink);
}
.sheet .el-drawer__title {
  font: 600 20px/28px var(--w-content);
}
.sheet .el-drawer__body {
  padding: 0 24px 24px;
}
.sheet .el-drawer__footer {
  display: flex;
  align-items: center;
  gap: 16px;
  min-block-size: 52px;
  padding: 8px 24px;
  border-block-start: 1px solid var(--w-hair);
  text-align: start;
}
</style>
