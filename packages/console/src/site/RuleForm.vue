<script setup lang="ts">
import type { ConnectorView, RuleEvent } from '@wisteria/core'
import { isLocalized, ruleEvents, translatedLocales } from '@wisteria/core'
import { ElCheckbox, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, watch } from 'vue'
import { t } from '../messages'
import { useSending } from '../sending'
import type { Site } from '../session'
import FormSheet from './FormSheet.vue'

/** The form of a new rule that orders translations. */
const { site, connectors } = defineProps<{ site: Site; connectors: readonly ConnectorView[] }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ saved: [] }>()

const form = reactive({
  label: '',
  connector: '',
  event: 'entry.published' as RuleEvent,
  type: '',
  where: '',
  locales: [] as string[],
  publish: false,
})
const types = computed(() => site.model.types.filter((type) => isLocalized(site.model, type)))
const targets = computed(() => {
  const own = connectors.find(({ id }) => id === form.connector)?.locales
  return translatedLocales(site.settings).filter(({ tag }) => own?.includes(tag) ?? true)
})
const { problems, isBusy, send } = useSending()
watch(
  open,
  (isOpen) => {
    if (!isOpen) return
    Object.assign(form, {
      label: '',
      connector: connectors[0]?.id ?? '',
      event: 'entry.published',
      type: types.value[0]?.name ?? '',
      where: '',
      locales: [],
      publish: false,
    })
    problems.value = []
  },
  { immediate: true },
)

async function save(): Promise<void> {
  const { where, locales, ...rule } = form
  const isDone = await send(() =>
    site.editor.ordering.addRule({
      ...rule,
      ...(where.trim() === '' ? {} : { where }),
      ...(locales.length === 0 ? {} : { locales }),
    }),
  )
  if (!isDone) return
  open.value = false
  emit('saved')
}
</script>

<template>
  <FormSheet
    v-model="open"
    :title="t('ordering.addRuleTitle')"
    :submit="t('ordering.addRule')"
    :problems="problems"
    :is-busy="isBusy"
    @submit="save"
  >
    <label for="rule-label">{{ t('ordering.label') }}</label>
    <ElInput id="rule-label" v-model="form.label" maxlength="120" autofocus required />
    <label for="rule-event">{{ t('ordering.after') }}</label>
    <ElSelect id="rule-event" v-model="form.event">
      <ElOption
        v-for="event in ruleEvents"
        :key="event"
        :value="event"
        :label="t(`ordering.events.${event === 'entry.published' ? 'published' : 'saved'}`)"
      />
    </ElSelect>
    <label for="rule-type">{{ t('translating.type') }}</label>
    <ElSelect id="rule-type" v-model="form.type">
      <ElOption v-for="{ name, label } in types" :key="name" :value="name" :label="label" />
    </ElSelect>
    <label for="rule-where">{{ t('ordering.where') }}</label>
    <ElInput id="rule-where" v-model="form.where" dir="ltr" :placeholder="t('ordering.allOfType')" />
    <label for="rule-connector">{{ t('ordering.connector') }}</label>
    <ElSelect id="rule-connector" v-model="form.connector">
      <ElOption v-for="{ id, label } in connectors" :key="id" :value="id" :label="label" />
    </ElSelect>
    <label for="rule-locales">{{ t('ordering.locales') }}</label>
    <ElSelect id="rule-locales" v-model="form.locales" multiple :placeholder="t('settings.allLocales')">
      <ElOption v-for="{ tag, label } in targets" :key="tag" :value="tag" :label="`${label} (${tag})`" />
    </ElSelect>
    <ElCheckbox v-model="form.publish">{{ t('ordering.publish') }}</ElCheckbox>
    <p class="quiet">{{ t('ordering.ruleExplained') }}</p>
  </FormSheet>
</template>
