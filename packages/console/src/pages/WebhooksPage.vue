<script setup lang="ts">
import { eventTypes } from '@wisteria/core'
import { ElButton, ElCheckbox, ElCheckboxGroup, ElInput, ElRadio, ElRadioGroup } from 'element-plus'
import { reactive, ref } from 'vue'
import StripBar from '../components/StripBar.vue'
import FormSheet from '../site/FormSheet.vue'
import OneTimeSecret from '../site/OneTimeSecret.vue'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'
import { useSending } from '../sending'
import RowTable from '../components/RowTable.vue'
import { t } from '../messages'

/** Who is told of changes; the deliveries of each are a page of their own. */
const props = defineProps<{ site: string }>()
const { site, content, trouble, load } = useSettings(
  props.site,
  async ({ editor }) => (await editor.webhooks()).webhooks,
)

const example = 'https://marram.example/changed'
const isAdding = ref(false)
const form = reactive({ label: '', address: '', some: false, events: [] as string[] })
const { problems, isBusy, send } = useSending()
const secret = ref('')
function openForm(): void {
  Object.assign(form, { label: '', address: '', some: false, events: [] })
  problems.value = []
  isAdding.value = true
}
async function add(): Promise<void> {
  const { label, address, some, events } = form
  const isDone = await send(async () => {
    const created = await site.value!.editor.createWebhook({ label, address, ...(some ? { events } : {}) })
    secret.value = created.secret
  })
  if (!isDone) return
  isAdding.value = false
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
        <td>{{ webhook.events?.join(', ') ?? t('webhooks.allPublic') }}</td>
        <td>{{ webhook.waiting }}</td>
        <td :class="{ 'error-text': webhook.failed }">{{ webhook.failed }}</td>
      </tr>
    </RowTable>
  </SettingsFrame>
  <StripBar>
    <template v-if="content" #end>
      <ElButton type="primary" @click="openForm">{{ t('webhooks.addMore') }}</ElButton>
    </template>
  </StripBar>
  <FormSheet
    v-model="isAdding"
    :title="t('webhooks.addTitle')"
    :submit="t('webhooks.add')"
    :problems="problems"
    :is-busy="isBusy"
    @submit="add"
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
.events {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
}
</style>
