<script setup lang="ts">
import type { Webhook } from '@wisteria/client'
import { ElButton } from 'element-plus'
import { ref } from 'vue'
import StripBar from '../components/StripBar.vue'
import OneTimeSecret from '../site/OneTimeSecret.vue'
import WebhookForm from '../site/WebhookForm.vue'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'
import RowTable from '../components/RowTable.vue'
import { t } from '../messages'

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
        </th>
        <td>
          <bdi dir="ltr"
            ><code>{{ webhook.address }}</code></bdi
          >
        </td>
        <td>
          {{ webhook.events?.join(', ') ?? t('webhooks.allPublic') }}
          <span v-if="!webhook.enabled" class="error-text">{{ t('webhooks.isOff') }}</span>
        </td>
        <td>{{ webhook.waiting }}</td>
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
