<script setup lang="ts">
import type { DeliveryInFull, SentOutcome } from '@wisteria/client'
import { shallowRef } from 'vue'
import { messageOf, t } from '../messages'
import type { Site } from '../session'
import { ago } from '../times'
import SentRequest from './SentRequest.vue'

/** The attempts of a delivery, with what was sent and what came back: read once they are unfolded. */
const { site, webhook, delivery, count } = defineProps<{
  site: Site
  webhook: string
  delivery: string
  /** How many attempts there are. */
  count: number
}>()
const full = shallowRef<DeliveryInFull>()
const trouble = shallowRef('')
async function read(event: Event): Promise<void> {
  if (!(event.target as HTMLDetailsElement).open) return
  trouble.value = ''
  try {
    full.value = await site.editor.webhooks.delivery(webhook, delivery)
  } catch (error) {
    trouble.value = messageOf(error)
  }
}
const words = ({ status, took, error }: SentOutcome): string =>
  status === null ? t('webhooks.noAnswer', { took, error: error ?? '' }) : t('webhooks.took', { status, took })
</script>

<template>
  <details @toggle="read">
    <summary>{{ t('webhooks.attempts', { n: count }) }}</summary>
    <p v-if="trouble" class="error-text" role="alert">{{ trouble }}</p>
    <ol v-else-if="full">
      <li v-for="attempt in full.attempts" :key="attempt.id">
        <time :datetime="attempt.at">{{ ago(attempt.at) }}</time>: {{ words(attempt) }}
        <SentRequest :sent="attempt" />
      </li>
    </ol>
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
  color: var(--w-ink2);
}
ol {
  margin: 4px 0 0;
  padding-inline-start: 20px;
}
</style>
