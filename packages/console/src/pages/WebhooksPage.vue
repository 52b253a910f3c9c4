<script setup lang="ts">
import type { Webhook, WebhookBacklog } from '@wisteria/client'
import { ElButton } from 'element-plus'
import { ref } from 'vue'
import StripBar from '../components/StripBar.vue'
import OneTimeSecret from '../site/OneTimeSecret.vue'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'
import RowTable from '../components/RowTable.vue'
import { t } from '../messages'
import { ago } from '../times'
import WebhookForm from '../webhooks/WebhookForm.vue'

/** The webhooks of the site; the deliveries of each are a page of their own. */
const props = defineProps<{ site: string }>()
const { site, content, trouble, load } = useSettings(
  props.site,
  async ({ editor }) => (await editor.webhooks.list()).webhooks,
)

const isAdding = ref(false)
const secret = ref('')
async function added(webhook: Webhook & { readonly secret?: string }): Promise<void> {
  secret.value = webhook.secret ?? ''
  await load()
}
/** What is wrong with a webhook, or why it sends nothing. */
function troubleOf({ enabled, pausedAt, failingSince, problem }: Webhook): string | undefined {
  if (!enabled) return t('webhooks.isOff')
  if (pausedAt !== null) return t('webhooks.isPaused')
  if (problem !== null) return problem
  return failingSince === null ? undefined : t('webhooks.failing', { when: ago(failingSince) })
}
const isBehind = ({ waiting, oldest }: WebhookBacklog): boolean => waiting > 0 && oldest !== null
</script>

<template>
  <SettingsFrame :site="props.site" :trouble="trouble" @again="load">
    <h1 class="page-name">{{ t('settings.webhooks') }}</h1>
    <p v-if="content?.length === 0" class="content">{{ t('webhooks.none') }}</p>
    <RowTable
      v-else-if="content"
      :heads="[
        t('webhooks.label'),
        t('webhooks.address'),
        t('webhooks.events'),
        t('webhooks.waiting'),
        t('webhooks.failed'),
      ]"
    >
      <tr v-for="webhook in content" :key="webhook.id">
        <th scope="row">
          <RouterLink :to="{ name: 'webhook', params: { site: props.site, webhook: webhook.id } }"
            ><bdi>{{ webhook.label }}</bdi></RouterLink
          >
          <span v-if="troubleOf(webhook)" class="error-text line">{{ troubleOf(webhook) }}</span>
        </th>
        <td>
          <bdi dir="ltr"
            ><code>{{ webhook.address }}</code></bdi
          >
        </td>
        <td>
          {{ webhook.events?.join(', ') ?? t('webhooks.allPublic') }}
          <bdi v-if="webhook.where" dir="ltr" class="line"
            ><code>{{ webhook.where }}</code></bdi
          >
        </td>
        <td>
          {{ webhook.waiting }}
          <span v-if="isBehind(webhook)" class="quiet line">{{
            t('webhooks.since', { when: ago(webhook.oldest!) })
          }}</span>
        </td>
        <td :class="{ 'error-text': webhook.failed }">{{ webhook.failed }}</td>
      </tr>
    </RowTable>
  </SettingsFrame>
  <StripBar>
    <template v-if="content" #end>
      <ElButton type="primary" @click="isAdding = true">{{ t('webhooks.addMore') }}</ElButton>
    </template>
  </StripBar>
  <WebhookForm v-if="site" v-model="isAdding" :site="site" @saved="added" />
  <OneTimeSecret
    v-if="secret"
    :title="t('webhooks.signing')"
    :explained="t('webhooks.shownOnce')"
    :label="t('webhooks.signing')"
    :value="secret"
    @stored="secret = ''"
  />
</template>

<style scoped>
.line {
  display: block;
  font-size: 12px;
}
</style>
