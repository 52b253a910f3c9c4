<script setup lang="ts">
import type { ConnectorView } from '@wisteria/core'
import { translatedLocales } from '@wisteria/core'
import { ElInput, ElOption, ElSelect } from 'element-plus'
import { reactive, watch } from 'vue'
import { t } from '../messages'
import { useSending } from '../sending'
import type { Site } from '../session'
import FormSheet from './FormSheet.vue'

/** The form of a new connector, or of a changed one. */
const { site, connector = undefined } = defineProps<{ site: Site; connector?: ConnectorView | undefined }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ saved: [secret: string | undefined] }>()

const example = 'https://agency.example/texts'
const form = reactive({ label: '', address: '', locales: [] as string[] })
const { problems, isBusy, send } = useSending()
watch(
  open,
  (isOpen) => {
    if (!isOpen) return
    const { label = '', address = '', locales = null } = connector ?? {}
    Object.assign(form, { label, address, locales: [...(locales ?? [])] })
    problems.value = []
  },
  { immediate: true },
)

async function save(): Promise<void> {
  const { label, address } = form
  const locales = form.locales.length > 0 ? form.locales : undefined
  const isDone = await send(async () => {
    const { ordering } = site.editor
    if (connector) {
      await ordering.changeConnector(connector.id, { label, address, locales: locales ?? null })
      emit('saved', undefined)
    } else emit('saved', (await ordering.addConnector({ label, address, locales })).secret)
  })
  if (isDone) open.value = false
}
</script>

<template>
  <FormSheet
    v-model="open"
    :title="connector ? t('ordering.changeTitle', { label: connector.label }) : t('ordering.addTitle')"
    :submit="connector ? t('common.save') : t('ordering.add')"
    :problems="problems"
    :is-busy="isBusy"
    @submit="save"
  >
    <label for="connector-label">{{ t('ordering.label') }}</label>
    <ElInput id="connector-label" v-model="form.label" maxlength="120" autofocus required />
    <label for="connector-address">{{ t('webhooks.address') }}</label>
    <ElInput id="connector-address" v-model="form.address" type="url" dir="ltr" :placeholder="example" required />
    <label for="connector-locales">{{ t('ordering.locales') }}</label>
    <ElSelect id="connector-locales" v-model="form.locales" multiple :placeholder="t('settings.allLocales')">
      <ElOption
        v-for="{ tag, label } in translatedLocales(site.settings)"
        :key="tag"
        :value="tag"
        :label="`${label} (${tag})`"
      />
    </ElSelect>
  </FormSheet>
</template>
