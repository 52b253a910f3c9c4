<script setup lang="ts">
import type { Webhook } from '@wisteria/client'
import { eventTypes } from '@wisteria/core'
import { ElCheckbox, ElCheckboxGroup, ElInput, ElRadio, ElRadioGroup } from 'element-plus'
import { reactive, watch } from 'vue'
import { t } from '../messages'
import { useSending } from '../sending'
import type { Site } from '../session'
import FormSheet from './FormSheet.vue'

/** The form of a new webhook, or of a changed one. */
const { site, webhook = undefined } = defineProps<{ site: Site; webhook?: Webhook | undefined }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ saved: [webhook: Webhook] }>()

const example = 'https://marram.example/changed'
const form = reactive({ label: '', address: '', some: false, events: [] as string[] })
const { problems, isBusy, send } = useSending()
watch(
  open,
  (isOpen) => {
    if (!isOpen) return
    const { label = '', address = '', events = null } = webhook ?? {}
    Object.assign(form, { label, address, some: events !== null, events: [...(events ?? [])] })
    problems.value = []
  },
  { immediate: true },
)

async function save(): Promise<void> {
  const { label, address, some, events } = form
  const isDone = await send(async () => {
    const saved = webhook
      ? await site.editor.webhooks.change(webhook.id, { label, address, events: some ? events : null })
      : await site.editor.webhooks.create({ label, address, ...(some ? { events } : {}) })
    emit('saved', saved)
  })
  if (isDone) open.value = false
}
</script>

<template>
  <FormSheet
    v-model="open"
    :title="webhook ? t('webhooks.changeTitle', { label: webhook.label }) : t('webhooks.addTitle')"
    :submit="webhook ? t('common.save') : t('webhooks.add')"
    :problems="problems"
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
  </FormSheet>
</template>

<style scoped>
.events {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
}
</style>
