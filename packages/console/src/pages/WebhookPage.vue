<script setup lang="ts">
import type { Delivery, SentOutcome } from '@wisteria/client'
import type { CloudEvent } from '@wisteria/core'
import { ElButton, ElRadioButton, ElRadioGroup } from 'element-plus'
import { ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { useActs } from '../acts'
import StripBar from '../components/StripBar.vue'
import OneTimeSecret from '../site/OneTimeSecret.vue'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'
import { ago, moment } from '../times'
import ConfirmButton from '../components/ConfirmButton.vue'
import RowTable from '../components/RowTable.vue'
import { t } from '../messages'
import AttemptList from '../webhooks/AttemptList.vue'
import ResendSheet from '../webhooks/ResendSheet.vue'
import SecretList from '../webhooks/SecretList.vue'
import SentRequest from '../webhooks/SentRequest.vue'
import WebhookForm from '../webhooks/WebhookForm.vue'

/** One webhook: a test, its secrets, its deliveries with every attempt, and sending again. */
const props = defineProps<{ site: string; webhook: string }>()
const router = useRouter()

type Shown = Delivery['status'] | 'all'
const shown = ref<Shown>('all')
const query = () => (shown.value === 'all' ? {} : { status: shown.value })
const { site, content, trouble, load } = useSettings(props.site, async ({ editor }) => {
  const [{ webhooks }, { deliveries, next }] = await Promise.all([
    editor.webhooks.list(),
    editor.webhooks.deliveries(props.webhook, query()),
  ])
  return { webhook: webhooks.find(({ id }) => id === props.webhook)!, deliveries, next }
})
const { result, refused, act } = useActs(load)
const admin = () => site.value!.editor.webhooks

async function older(): Promise<void> {
  const { webhook, deliveries, next } = content.value!
  const more = await admin().deliveries(props.webhook, { ...query(), before: next! })
  content.value = { webhook, deliveries: [...deliveries, ...more.deliveries], next: more.next }
}
const resend = ({ id, sequence }: Delivery) =>
  act(() => admin().resend(props.webhook, id), t('webhooks.resent', { number: sequence }))
const isChanging = ref(false)
const isResending = ref(false)
const setEnabled = (enabled: boolean) =>
  act(() => admin().change(props.webhook, { enabled }), t(enabled ? 'webhooks.isOnAgain' : 'webhooks.isOff'))
const resume = () => act(() => admin().change(props.webhook, { paused: false }), t('webhooks.resumed'))
const saved = () => act(async () => {}, t('common.savedStop'))
const resentSpan = (n: number) => act(async () => {}, t('webhooks.resentSpan', { n }))

const tested = shallowRef<SentOutcome & { readonly body: CloudEvent }>()
const test = () => act(async () => (tested.value = await admin().test(props.webhook)), '')

const secret = ref('')
const addSecret = () => act(async () => (secret.value = (await admin().addSecret(props.webhook)).secret), '')
const endSecret = (id: string) => act(() => admin().endSecret(props.webhook, id), t('webhooks.secretEnded'))

async function remove(): Promise<void> {
  await admin().remove(props.webhook)
  await router.push({ name: 'webhooks', params: { site: props.site } })
}
const stateOf = ({ status, nextAt }: Delivery): string =>
  status === 'delivered'
    ? t('webhooks.delivered')
    : status === 'failed'
      ? t('webhooks.hasFailed')
      : t('webhooks.isWaiting', { when: nextAt ? moment(nextAt) : '' })
const testWords = ({ status, took, error }: SentOutcome): string =>
  status === null ? t('webhooks.noAnswer', { took, error: error ?? '' }) : t('webhooks.took', { status, took })
const choices: readonly (readonly [Shown, string])[] = [
  ['all', t('webhooks.all')],
  ['waiting', t('webhooks.waiting')],
  ['failed', t('webhooks.failed')],
  ['delivered', t('webhooks.delivered')],
]
</script>

<template>
  <SettingsFrame :site="props.site" :trouble="trouble" @again="load">
    <p>
      <RouterLink :to="{ name: 'webhooks', params: { site: props.site } }">{{ t('webhooks.backToAll') }}</RouterLink>
    </p>
    <template v-if="site && content">
      <div class="head">
        <h1 class="page-name">{{ t('webhooks.deliveriesOf', { label: content.webhook.label }) }}</h1>
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
      <p v-if="content.webhook.pausedAt" class="error-text">
        {{ t('webhooks.pausedExplained', { when: ago(content.webhook.pausedAt) }) }}
        <ElButton size="small" @click="resume">{{ t('webhooks.resume') }}</ElButton>
      </p>
      <p v-else-if="content.webhook.failingSince" class="error-text">
        {{ t('webhooks.failing', { when: ago(content.webhook.failingSince) }) }}
      </p>
      <p v-if="content.webhook.problem" class="error-text">{{ content.webhook.problem }}</p>
      <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
      <div class="tools">
        <ElRadioGroup v-model="shown" size="small" :aria-label="t('webhooks.show')" @change="load">
          <ElRadioButton v-for="[value, label] in choices" :key="value" :value="value">{{ label }}</ElRadioButton>
        </ElRadioGroup>
        <ElButton size="small" @click="load">{{ t('webhooks.reload') }}</ElButton>
        <ElButton size="small" @click="isResending = true">{{ t('webhooks.resendMore') }}</ElButton>
        <ElButton size="small" @click="test">{{ t('webhooks.test') }}</ElButton>
      </div>
      <section v-if="tested" role="status" class="tested" :aria-label="t('webhooks.testResult')">
        <b>{{ t('webhooks.testResult') }}</b>:
        <span :class="{ 'error-text': tested.status === null || tested.status >= 300 }">{{ testWords(tested) }}</span>
        <SentRequest :sent="tested" />
      </section>
      <p v-if="content.deliveries.length === 0" class="content">
        {{ shown === 'all' ? t('webhooks.nothingSent') : t('webhooks.noneSuch') }}
      </p>
      <RowTable v-else :heads="[t('webhooks.number'), t('webhooks.event'), t('webhooks.state')]" has-actions>
        <tr v-for="delivery in content.deliveries" :key="delivery.id">
          <th scope="row">{{ delivery.sequence }}</th>
          <td>
            <code>{{ delivery.type }}</code>
            <span v-if="delivery.events > 1" class="quiet line">{{
              t('webhooks.together', { n: delivery.events })
            }}</span>
          </td>
          <td>
            <span :class="{ 'error-text': delivery.status === 'failed' }">{{ stateOf(delivery) }}</span>
            <span v-if="delivery.attempts.length === 0" class="quiet">. {{ t('webhooks.noAttempt') }}</span>
            <AttemptList
              v-else
              :site="site"
              :webhook="props.webhook"
              :delivery="delivery.id"
              :count="delivery.attempts.length"
            />
          </td>
          <td class="actions">
            <ElButton size="small" @click="resend(delivery)">{{ t('webhooks.resend') }}</ElButton>
          </td>
        </tr>
      </RowTable>
      <p v-if="content.next !== null">
        <ElButton size="small" @click="older">{{ t('webhooks.older') }}</ElButton>
      </p>
      <SecretList :webhook="content.webhook" @add="addSecret" @end="endSecret" />
    </template>
  </SettingsFrame>
  <StripBar :result="result" />
  <template v-if="site && content">
    <WebhookForm v-model="isChanging" :site="site" :webhook="content.webhook" @saved="saved" />
    <ResendSheet v-model="isResending" :site="site" :webhook="props.webhook" @resent="resentSpan" />
  </template>
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
.head,
.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
.head h1 {
  flex: 1;
  margin: 0;
}
.tools {
  margin-block: 16px;
}
.head :deep(.el-button + .el-button),
.tools :deep(.el-button + .el-button) {
  margin-inline-start: 0;
}
.off {
  margin-inline-start: 12px;
}
.line {
  display: block;
  font-size: 12px;
}
.tested {
  margin-block-start: 0 !important;
}
</style>
