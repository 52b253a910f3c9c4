<script setup lang="ts">
import type { Webhook } from '@wisteria/client'
import { eventTypes, merges, readChangeCondition, type CloudEvent, type Merge } from '@wisteria/core'
import { ElButton, ElCheckbox, ElCheckboxGroup, ElInput, ElRadio, ElRadioGroup } from 'element-plus'
import { computed, reactive, shallowRef, watch } from 'vue'
import { messageOf, t } from '../messages'
import { useSending } from '../sending'
import type { Site } from '../session'
import FormSheet from '../site/FormSheet.vue'
import { headersFrom, headersToSend, type HeaderDraft } from './headers'
import WebhookHeaders from './WebhookHeaders.vue'

/** The form of a new webhook, or of a changed one. */
const { site, webhook = undefined } = defineProps<{ site: Site; webhook?: Webhook | undefined }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ saved: [webhook: Webhook & { readonly secret?: string }] }>()

const example = 'https://marram.example/changed'
const form = reactive({
  label: '',
  address: '',
  some: false,
  events: [] as string[],
  where: '',
  merge: 'none' as Merge,
  headers: [] as HeaderDraft[],
})
const sample = shallowRef<{ readonly body: CloudEvent; readonly real: boolean }>()
const { problems, isBusy, send } = useSending()
const sampling = useSending()
watch(
  open,
  (isOpen) => {
    if (!isOpen) return
    const { label = '', address = '', events = null, where = null, merge = 'none', headers = [] } = webhook ?? {}
    Object.assign(form, {
      label,
      address,
      some: events !== null,
      events: [...(events ?? [])],
      where: where ?? '',
      merge,
      headers: headersFrom(headers),
    })
    problems.value = sampling.problems.value = []
    sample.value = undefined
  },
  { immediate: true },
)
/** Why the condition cannot be asked, while it is written. */
const fault = computed(() => {
  if (form.where.trim() === '') return undefined
  try {
    readChangeCondition(form.where, site.model)
    return undefined
  } catch (error) {
    return messageOf(error)
  }
})
const where = computed(() => (form.where.trim() === '' ? null : form.where.trim()))

async function save(): Promise<void> {
  const { label, address, some, events, merge } = form
  const { webhooks } = site.editor
  const headers = headersToSend(webhook?.headers ?? [], form.headers)
  const isDone = await send(async () => {
    const saved = webhook
      ? await webhooks.change(webhook.id, {
          label,
          address,
          events: some ? events : null,
          where: where.value,
          merge,
          ...(headers ? { headers } : {}),
        })
      : await webhooks.create({
          label,
          address,
          merge,
          ...(some ? { events } : {}),
          ...(where.value === null ? {} : { where: where.value }),
          ...(headers ? { headers: headers as Record<string, string> } : {}),
        })
    emit('saved', saved)
  })
  if (isDone) open.value = false
}

const showSample = (): Promise<boolean> =>
  sampling.send(async () => {
    sample.value = await site.editor.webhooks.preview({
      merge: form.merge,
      ...(form.some ? { events: form.events } : {}),
      ...(where.value === null ? {} : { where: where.value }),
    })
  })
</script>

<template>
  <FormSheet
    v-model="open"
    :title="webhook ? t('webhooks.changeTitle', { label: webhook.label }) : t('webhooks.addTitle')"
    :submit="webhook ? t('common.save') : t('webhooks.add')"
    :problems="[...problems, ...sampling.problems.value]"
    :is-busy="isBusy"
    @submit="save"
  >
    <label for="webhook-label">{{ t('webhooks.label') }}</label>
    <ElInput
      id="webhook-label"
      v-model="form.label"
      :placeholder="t('webhooks.labelExample')"
      maxlength="120"
      autofocus
      required
    />
    <label for="webhook-address">{{ t('webhooks.address') }}</label>
    <ElInput id="webhook-address" v-model="form.address" type="url" dir="ltr" :placeholder="example" required />
    <span id="webhook-events" class="label">{{ t('webhooks.events') }}</span>
    <ElRadioGroup v-model="form.some" aria-labelledby="webhook-events">
      <ElRadio :value="false">{{ t('webhooks.allPublic') }}</ElRadio>
      <ElRadio :value="true">{{ t('webhooks.some') }}</ElRadio>
    </ElRadioGroup>
    <ElCheckboxGroup v-if="form.some" v-model="form.events" class="events" aria-labelledby="webhook-events">
      <ElCheckbox v-for="(what, event) in eventTypes" :key="event" :value="event" :title="what">
        <code>{{ event }}</code>
      </ElCheckbox>
    </ElCheckboxGroup>
    <label for="webhook-where">{{ t('webhooks.where') }}</label>
    <ElInput
      id="webhook-where"
      v-model="form.where"
      dir="ltr"
      maxlength="10000"
      :placeholder="t('webhooks.always')"
      aria-describedby="webhook-where-hint"
    />
    <p id="webhook-where-hint" class="hint" :class="fault ? 'error-text' : 'quiet'" aria-live="polite">
      {{ fault ?? t('webhooks.whereHint') }}
    </p>
    <span id="webhook-merge" class="label">{{ t('webhooks.merge') }}</span>
    <ElRadioGroup v-model="form.merge" aria-labelledby="webhook-merge">
      <ElRadio v-for="merge in merges" :key="merge" :value="merge">{{ t(`webhooks.merges.${merge}`) }}</ElRadio>
    </ElRadioGroup>
    <span class="label">{{ t('webhooks.headers') }}</span>
    <WebhookHeaders v-model="form.headers" />
    <span
      ><ElButton size="small" @click="showSample">{{ t('webhooks.showSample') }}</ElButton></span
    >
    <figure v-if="sample">
      <figcaption class="quiet">{{ sample.real ? t('webhooks.realSample') : t('webhooks.madeUpSample') }}</figcaption>
      <pre dir="ltr" tabindex="0">{{ JSON.stringify(sample.body, null, 2) }}</pre>
    </figure>
  </FormSheet>
</template>

<style scoped>
.events {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
}
.hint {
  margin: 0;
  font-size: 12px;
}
figure {
  margin: 0;
}
pre {
  max-block-size: 320px;
  margin: 4px 0 0;
  padding: 8px 12px;
  overflow: auto;
  background: var(--w-sunk);
}
</style>
