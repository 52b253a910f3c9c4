<script setup lang="ts">
import { wallTimeIn, withOffset } from '@wisteria/core'
import { ElCheckbox } from 'element-plus'
import { reactive, watch } from 'vue'
import { t } from '../messages'
import { useSending } from '../sending'
import type { Site } from '../session'
import FormSheet from '../site/FormSheet.vue'
import { ownZone } from '../times'

/** Sends the events of a span of time again. */
const { site, webhook } = defineProps<{ site: Site; webhook: string }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ resent: [count: number] }>()

const form = reactive({ from: '', to: '', onlyMissed: true })
const { problems, isBusy, send } = useSending()
watch(
  open,
  (isOpen) => {
    if (!isOpen) return
    const wall = (before: number): string =>
      wallTimeIn(new Date(Date.now() - before).toISOString(), ownZone()).slice(0, 16)
    Object.assign(form, { from: wall(3_600_000), to: wall(-60_000), onlyMissed: true })
    problems.value = []
  },
  { immediate: true },
)

async function resend(): Promise<void> {
  const isDone = await send(async () => {
    const [from, to] = [form.from, form.to].map((wall) => new Date(withOffset(`${wall}:00`, ownZone())).toISOString())
    const span = { from: from!, to: to!, onlyMissed: form.onlyMissed }
    emit('resent', (await site.editor.webhooks.resendSpan(webhook, span)).resent)
  })
  if (isDone) open.value = false
}
</script>

<template>
  <FormSheet
    v-model="open"
    :title="t('webhooks.resendSpanTitle')"
    :submit="t('webhooks.resendSpan')"
    :problems="problems"
    :is-busy="isBusy"
    @submit="resend"
  >
    <label for="resend-from">{{ t('webhooks.from') }}</label>
    <input id="resend-from" v-model="form.from" type="datetime-local" class="clock" required />
    <label for="resend-to">{{ t('webhooks.to') }}</label>
    <input id="resend-to" v-model="form.to" type="datetime-local" class="clock" required />
    <ElCheckbox v-model="form.onlyMissed">{{ t('webhooks.onlyMissed') }}</ElCheckbox>
    <p class="quiet">{{ t('webhooks.resendExplained') }}</p>
  </FormSheet>
</template>
