<script setup lang="ts">
import type { Delivery } from '@wisteria/client'
import { ElButton } from 'element-plus'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useActs } from '../acts'
import StripBar from '../components/StripBar.vue'
import WebhookForm from '../site/WebhookForm.vue'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'
import { ago, moment } from '../times'
import ConfirmButton from '../components/ConfirmButton.vue'
import RowTable from '../components/RowTable.vue'
import { t } from '../messages'

/** One webhook: its deliveries, every attempt with its answer, and Resend. */
const props = defineProps<{ site: string; webhook: string }>()
const router = useRouter()
const { site, content, trouble, load } = useSettings(props.site, async ({ editor }) => {
  const [{ webhooks }, { deliveries }] = await Promise.all([
    editor.webhooks.list(),
    editor.webhooks.deliveries(props.webhook),
  ])
  return { webhook: webhooks.find(({ id }) => id === props.webhook)!, deliveries }
})
const { result, refused, act } = useActs(load)
const resend = ({ id, sequence }: Delivery) =>
  act(() => site.value!.editor.webhooks.resend(props.webhook, id), t('webhooks.resent', { number: sequence }))
const isChanging = ref(false)
const setEnabled = (enabled: boolean) =>
  act(
    () => site.value!.editor.webhooks.change(props.webhook, { enabled }),
    t(enabled ? 'webhooks.isOnAgain' : 'webhooks.isOff'),
  )
const saved = () => act(async () => {}, t('common.savedStop'))
async function remove(): Promise<void> {
  await site.value!.editor.webhooks.remove(props.webhook)
  await router.push({ name: 'webhooks', params: { site: props.site } })
}
const stateOf = ({ status, nextAt }: Delivery): string =>
  status === 'delivered'
    ? t('webhooks.delivered')
    : status === 'failed'
      ? t('webhooks.hasFailed')
      : t('webhooks.isWaiting', { when: nextAt ? moment(nextAt) : '' })
const attemptWords = ({ status, took, error }: Delivery['attempts'][number]): string =>
  status === null ? t('webhooks.noAnswer', { took, error: error ?? '' }) : t('webhooks.took', { status, took })
</script>

<template>
  <SettingsFrame :site="props.site" :trouble="trouble" @again="load">
    <p>
      <RouterLink :to="{ name: 'webhooks', params: { site: props.site } }">{{ t('webhooks.backToAll') }}</RouterLink>
    </p>
    <template v-if="content">
      <div class="head">
        <h1 class="page-name">{{ t('webhooks.deliveriesOf', { label: content.webhook.label }) }}</h1>
        <ElButton size="small" @click="load">{{ t('webhooks.reload') }}</ElButton>
        <ElButton size="small" @click="isChanging = true">{{ t('webhooks.changeMore') }}</ElButton>
        <ElButton size="small" @click="setEnabled(!content.webhook.enabled)">{{
          content.webhook.enabled ? t('webhooks.switchOff') : t('webhooks.switchOn')
        }}</ElButton>
        <ConfirmButton
          :label="t('webhooks.removeMore')"
          :question="t('webhooks.removeQuestion', { label: content.webhook.label })"
          :verb="t('common.remove')"
          @confirm="remove"
        />
      </div>
      <p>
        <bdi dir="ltr"
          ><code>{{ content.webhook.address }}</code></bdi
        >
        <span v-if="!content.webhook.enabled" class="error-text off">{{ t('webhooks.offExplained') }}</span>
      </p>
      <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
      <p v-if="content.deliveries.length === 0" class="content">{{ t('webhooks.nothingSent') }}</p>
      <RowTable v-else :heads="[t('webhooks.number'), t('webhooks.event'), t('webhooks.state')]" has-actions>
        <tr v-for="delivery in content.deliveries" :key="delivery.id">
          <th scope="row">{{ delivery.sequence }}</th>
          <td>
            <code>{{ delivery.type }}</code>
          </td>
          <td>
            <span :class="{ 'error-text': delivery.status === 'failed' }">{{ stateOf(delivery) }}</span>
            <span v-if="delivery.attempts.length === 0" class="quiet">. {{ t('webhooks.noAttempt') }}</span>
            <details v-else>
              <summary>{{ t('webhooks.attempts', { n: delivery.attempts.length }) }}</summary>
              <ol>
                <li v-for="attempt in delivery.attempts" :key="attempt.at">
                  <time :datetime="attempt.at">{{ ago(attempt.at) }}</time>: {{ attemptWords(attempt) }}
                  <pre v-if="attempt.answer">{{ attempt.answer }}</pre>
                  <span v-else-if="attempt.status !== null" class="quiet">{{ t('webhooks.noBody') }}</span>
                </li>
              </ol>
            </details>
          </td>
          <td class="actions">
            <ElButton size="small" @click="resend(delivery)">{{ t('webhooks.resend') }}</ElButton>
          </td>
        </tr>
      </RowTable>
    </template>
  </SettingsFrame>
  <StripBar :result="result" />
  <WebhookForm v-if="site && content" v-model="isChanging" :site="site" :webhook="content.webhook" @saved="saved" />
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 8px;
}
.head h1 {
  flex: 1;
  margin: 0;
}
.off {
  margin-inline-start: 12px;
}
summary {
  cursor: pointer;
  color: var(--w-ink2);
}
ol {
  margin: 4px 0 0;
  padding-inline-start: 20px;
}
pre {
  margin: 4px 0;
  max-block-size: 120px;
  overflow: auto;
  white-space: pre-wrap;
}
</style>
