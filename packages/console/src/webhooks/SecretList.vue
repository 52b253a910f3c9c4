<script setup lang="ts">
import type { Webhook } from '@wisteria/client'
import { ElButton } from 'element-plus'
import { t } from '../messages'
import { ago, moment } from '../times'
import RowTable from '../components/RowTable.vue'

/** The secrets that the deliveries of a webhook are signed with: the newest, and earlier ones until they end. */
defineProps<{ webhook: Webhook }>()
defineEmits<{ add: []; end: [secret: string] }>()
</script>

<template>
  <section :aria-label="t('webhooks.secrets')">
    <h2>{{ t('webhooks.secrets') }}</h2>
    <RowTable :heads="[t('webhooks.secret'), t('webhooks.made'), t('webhooks.validUntil')]" has-actions>
      <tr v-for="secret in webhook.secrets" :key="secret.id">
        <th scope="row">
          <code>{{ secret.id }}</code>
        </th>
        <td>{{ ago(secret.createdAt) }}</td>
        <td>{{ secret.until === null ? t('webhooks.noEnd') : moment(secret.until) }}</td>
        <td class="actions">
          <ElButton v-if="secret.until !== null" size="small" @click="$emit('end', secret.id)">{{
            t('webhooks.endSecret')
          }}</ElButton>
        </td>
      </tr>
    </RowTable>
    <p class="quiet">{{ t('webhooks.secretsExplained') }}</p>
    <ElButton size="small" @click="$emit('add')">{{ t('webhooks.addSecret') }}</ElButton>
  </section>
</template>
