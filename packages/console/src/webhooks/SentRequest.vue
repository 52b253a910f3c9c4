<script setup lang="ts">
import type { SentOutcome } from '@wisteria/client'
import type { CloudEvent } from '@wisteria/core'
import { t } from '../messages'

/** A request as it went out, and the beginning of its answer. */
defineProps<{ sent: SentOutcome & { readonly body: CloudEvent | null } }>()
</script>

<template>
  <dl>
    <dt>{{ t('webhooks.sentHeaders') }}</dt>
    <dd>
      <pre dir="ltr" tabindex="0"><template v-for="(value, name) in sent.headers" :key="name">{{ name }}: {{ value }}
</template></pre>
    </dd>
    <dt>{{ t('webhooks.sentBody') }}</dt>
    <dd>
      <pre v-if="sent.body" dir="ltr" tabindex="0">{{ JSON.stringify(sent.body, null, 2) }}</pre>
      <span v-else class="quiet">{{ t('webhooks.bodyGone') }}</span>
    </dd>
    <template v-if="sent.status !== null">
      <dt>{{ t('webhooks.answer') }}</dt>
      <dd>
        <pre v-if="sent.answer" dir="auto" tabindex="0">{{ sent.answer }}</pre>
        <span v-else class="quiet">{{ t('webhooks.noBody') }}</span>
      </dd>
    </template>
  </dl>
</template>

<style scoped>
dl {
  margin: 4px 0 12px;
}
dt {
  font-size: 12px;
  color: var(--w-ink2);
}
dd {
  margin: 0 0 4px;
}
pre {
  max-block-size: 160px;
  margin: 0;
  padding: 4px 8px;
  overflow: auto;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  background: var(--w-sunk);
}
</style>
