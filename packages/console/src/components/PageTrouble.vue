<script setup lang="ts">
import { WisteriaProblem } from '@wisteria/client'
import { ElButton } from 'element-plus'
import { computed } from 'vue'
import { messageOf, t } from '../messages'

/** An error in its place: the error, what is safe, the way out, and the request's id. */
const { error, safe = '' } = defineProps<{ error: unknown; safe?: string }>()
defineEmits<{ again: [] }>()
const message = computed(() => messageOf(error))
const requestId = computed(() => (error instanceof WisteriaProblem ? error.requestId : undefined))
</script>

<template>
  <div class="trouble" role="alert">
    <p class="error-text">
      <svg viewBox="0 0 14 14" width="14" height="14" aria-hidden="true">
        <path d="M7 1 L13.5 13 H0.5 Z" fill="none" stroke="currentColor" stroke-width="1.5" />
      </svg>
      {{ message }}
    </p>
    <p v-if="safe" class="quiet">{{ safe }}</p>
    <p>
      <ElButton @click="$emit('again')">{{ t('common.tryAgain') }}</ElButton>
      <small v-if="requestId" class="quiet">{{ t('common.request', { id: requestId }) }}</small>
    </p>
  </div>
</template>

<style scoped>
small {
  margin-inline-start: 12px;
}
.trouble {
  padding: 24px;
  max-inline-size: 624px;
}
</style>
