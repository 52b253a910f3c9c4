<script setup lang="ts">
import { ElButton } from 'element-plus'

/** A page for people who are not signed in: one form on paper. Labels and controls are its content. */
const {
  title,
  problems,
  submit,
  isBusy,
  disabled = false,
  isTall = false,
} = defineProps<{
  title: string
  problems: readonly string[]
  /** The text of its button. */
  submit: string
  isBusy: boolean
  disabled?: boolean
  /** Whether it fills the page and begins at the top. */
  isTall?: boolean
}>()
defineEmits<{ submit: [] }>()
</script>

<template>
  <main class="desk" :class="{ tall: isTall }" data-region="work">
    <form class="paper" @submit.prevent="$emit('submit')">
      <h1 class="serif">{{ title }}</h1>
      <slot />
      <p v-for="problem in problems" :key="problem" class="error-text" role="alert">{{ problem }}</p>
      <ElButton type="primary" native-type="submit" :loading="isBusy" :disabled="disabled">{{ submit }}</ElButton>
    </form>
  </main>
</template>

<style scoped>
.desk {
  padding-block-start: max(24px, calc(33vh - 120px));
  padding-inline-start: 160px;
  overflow: auto;
}
.desk.tall {
  padding-block: 40px;
}
form {
  inline-size: 400px;
  padding: 40px;
  display: grid;
  gap: 4px;
}
h1 {
  font-size: 30px;
  line-height: 38px;
  margin-block-end: 8px;
}
form > p,
form > :deep(p) {
  margin: 0;
}
form > :deep(label) {
  margin-block-start: 12px;
  font-size: 13px;
  color: var(--w-ink2);
}
form > .el-button {
  margin-block-start: 24px;
  justify-self: start;
}
@media (max-width: 720px) {
  .desk {
    padding-inline: 24px;
  }
  form {
    inline-size: 100%;
  }
}
</style>
