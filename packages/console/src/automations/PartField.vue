<script setup lang="ts">
import { eventTypes, fieldNamed, localeTags, typeNamed, weekdays, type AutomationPart } from '@wisteria/core'
import { ElCheckbox, ElOption, ElSelect } from 'element-plus'
import { computed } from 'vue'
import LateInput from '../components/LateInput.vue'
import { t } from '../messages'
import type { Site } from '../session'
import ValuesField from './ValuesField.vue'
import { partLabel } from './words'

/** One part of a start or of a step. */
const { site, part, value, around, connectors } = defineProps<{
  site: Site
  part: AutomationPart
  value: unknown
  /** The step or the start that it is a part of. */
  around: Readonly<Record<string, unknown>>
  /** The labels of connectors. */
  connectors: readonly string[]
}>()
const emit = defineEmits<{ change: [value: unknown] }>()

/** Its explanation, in pieces: every second one is code. A list to choose from explains itself. */
const says = computed(() => (part.is === 'events' || part.is === 'days' ? [] : part.says.split('`')))
const label = computed(() => partLabel(part.name))
const type = computed(() => typeNamed(site.model, String(around['type'] ?? '')))
const typeNames = computed(() => site.model.types.map(({ name, label: called }) => ({ value: name, label: called })))
const tags = computed(() => localeTags(site.settings))
const plain = (names: readonly string[]) => names.map((name) => ({ value: name, label: name }))
/** What can be chosen: one, or several; undefined where it is written. */
const choices = computed((): readonly { readonly value: string; readonly label: string }[] | undefined => {
  switch (part.is) {
    case 'type':
    case 'types':
      return typeNames.value
    case 'field':
      return plain((type.value?.fields ?? []).map(({ name }) => name))
    case 'connector':
      return plain(connectors)
    case 'locales':
      return plain(tags.value)
    case 'events':
      return plain(Object.keys(eventTypes).filter((name) => name.startsWith('entry.')))
    case 'days':
      return [
        ...weekdays.map((name) => ({ value: name, label: t(`automations.days.${name}`) })),
        ...plain(Array.from({ length: 31 }, (_, index) => String(index + 1))),
      ]
    case 'choice':
      return part.options.map((option) => ({ value: option, label: option }))
    default:
      return undefined
  }
})
const isMany = computed(() => ['types', 'locales', 'events', 'days'].includes(part.is))
/** Names that values may have: fields of the type, by locale where they are localized. */
const names = computed(() =>
  (type.value ? [type.value] : part.name === 'values' ? site.model.types : []).flatMap((owner) =>
    owner.fields.flatMap(({ name }) =>
      fieldNamed(owner, name)!.localized ? tags.value.map((tag) => `${name}.${tag}`) : [name],
    ),
  ),
)
const chosen = computed(() => (isMany.value ? (Array.isArray(value) ? value.map(String) : []) : String(value ?? '')))
function choose(now: string | readonly string[]): void {
  if (typeof now === 'string') return emit('change', now === '' ? undefined : now)
  const values = part.is === 'days' ? now.map((day) => (/^\d+$/.test(day) ? Number(day) : day)) : now
  emit('change', values.length === 0 ? undefined : values)
}
const write = (text: string): void => emit('change', text.trim() === '' ? undefined : text)
</script>

<template>
  <div class="part">
    <ElCheckbox
      v-if="part.is === 'flag'"
      :model-value="value === true"
      @update:model-value="emit('change', $event === true ? true : undefined)"
      >{{ label }}</ElCheckbox
    >
    <template v-else>
      <span class="label" :class="{ needed: part.isRequired }">{{ label }}</span>
      <ValuesField
        v-if="part.is === 'values'"
        :value="value"
        :label="label"
        :names="[...new Set(names)]"
        @change="emit('change', $event)"
      />
      <ElSelect
        v-else-if="choices"
        :model-value="chosen"
        :multiple="isMany"
        :empty-values="[null, undefined]"
        filterable
        :clearable="!part.isRequired"
        value-on-clear=""
        :aria-label="label"
        @update:model-value="choose($event as string)"
      >
        <ElOption v-for="choice in choices" :key="choice.value" :value="choice.value" :label="choice.label" />
      </ElSelect>
      <LateInput
        v-else
        :value="typeof value === 'string' ? value : value === undefined ? '' : JSON.stringify(value)"
        class="code"
        dir="ltr"
        :placeholder="part.is === 'time' ? '07:30' : ''"
        :aria-label="label"
        @change="write"
      />
      <span v-if="says.join('') !== ''" class="quiet says" lang="en" dir="ltr"
        ><template v-for="(piece, index) in says" :key="index"
          ><code v-if="index % 2 === 1">{{ piece }}</code
          ><template v-else>{{ piece }}</template></template
        ></span
      >
    </template>
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 2px;
}
.label {
  font-size: 13px;
  color: var(--w-ink2);
}
.needed::after {
  content: ' *';
}
.says {
  font-size: 12px;
}
.code :deep(input) {
  font-family: var(--w-code);
}
</style>
