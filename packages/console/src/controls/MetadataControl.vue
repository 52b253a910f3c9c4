<script setup lang="ts">
import type { Field } from '@wisteria/core'
import { ElCheckbox, ElInput } from 'element-plus'
import { computed } from 'vue'
import { useWorkingCopy } from '../editor/workingCopy'
import AssetControl from './AssetControl.vue'
import type { ControlProps } from './control'
import { t } from '../messages'

/** Search and social texts. Where one is missing, readers get it from other fields, and the form shows it. */
const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()
const copy = useWorkingCopy()

interface Metadata {
  readonly title?: string
  readonly description?: string
  readonly image?: string
  readonly hidden?: boolean
}
const written = computed(() => (props.value ?? {}) as Metadata)
const limits = { title: 70, description: 200 } as const
const from = computed(() => (props.field.options['from'] ?? {}) as Readonly<Record<string, string>>)
const stand = (member: 'title' | 'description'): string => {
  const name = from.value[member]
  const field = name === undefined ? undefined : copy.type.fields.find((candidate) => candidate.name === name)
  const text = field
    ? (copy.read(copy.values, field.name, field.localized ? props.locale : undefined) ??
      copy.inherited(copy.values, field.name, props.locale)?.value)
    : undefined
  return typeof text === 'string' ? text : ''
}
const image = computed<Field>(() => ({
  ...props.field,
  kind: 'asset',
  many: false,
  label: t('controls.picture'),
  options: { accepts: ['image/*'] },
}))

function put(member: keyof Metadata, value: unknown): void {
  const next = Object.fromEntries(
    Object.entries({ ...written.value, [member]: value }).filter(
      ([, own]) => own !== undefined && own !== '' && own !== false,
    ),
  )
  emit('change', Object.keys(next).length > 0 ? next : undefined)
}
const size = (member: keyof typeof limits): number => [...(written.value[member] ?? '')].length
</script>

<template>
  <div class="metadata">
    <label :for="id">{{ t('controls.title') }}</label>
    <ElInput
      :id="id"
      :model-value="written.title ?? ''"
      :placeholder="stand('title')"
      :disabled="disabled"
      :dir="direction"
      @update:model-value="put('title', $event)"
    />
    <span class="count" :class="{ 'error-text': size('title') > limits.title }">{{
      t('common.sizeOf', { size: size('title'), max: limits.title })
    }}</span>
    <label :for="`${id}-description`">{{ t('controls.description') }}</label>
    <ElInput
      :id="`${id}-description`"
      type="textarea"
      autosize
      :model-value="written.description ?? ''"
      :placeholder="stand('description')"
      :disabled="disabled"
      :dir="direction"
      @update:model-value="put('description', $event)"
    />
    <span class="count" :class="{ 'error-text': size('description') > limits.description }">{{
      t('common.sizeOf', { size: size('description'), max: limits.description })
    }}</span>
    <label :for="`${id}-image`">{{ t('controls.picture') }}</label>
    <AssetControl
      :id="`${id}-image`"
      :field="image"
      :value="written.image"
      :locale="locale"
      :direction="direction"
      :disabled="disabled"
      @change="put('image', $event)"
    />
    <span />
    <span />
    <ElCheckbox
      :model-value="written.hidden ?? false"
      :disabled="disabled"
      @update:model-value="put('hidden', $event)"
      >{{ t('controls.hideFromSearch') }}</ElCheckbox
    >
  </div>
</template>

<style scoped>
.metadata {
  display: grid;
  grid-template-columns: 88px minmax(0, 1fr) 64px;
  gap: 8px 12px;
  align-items: baseline;
}
label,
.count {
  font-size: 12px;
  color: var(--w-ink2);
}
</style>
