<script setup lang="ts">
import { kindNamed, type FieldSource } from '@wisteria/core'
import { ElCheckbox, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref, useId, watch } from 'vue'
import { readJson } from '../controls/jsonText'
import CheckRules from './CheckRules.vue'
import ChoiceOptions from './ChoiceOptions.vue'
import { printDefault, readDefault, type OptionForm } from './optionForms'
import { t } from '../messages'

/** One option of a field, in the control that fits it. An option without a value is not written into the file. */
const {
  form,
  field,
  types,
  blocks,
  labels,
  textFields,
  assetFields,
  sections,
  adoptedChoices,
  locales,
  defaultLocale,
  problem,
  disabled,
} = defineProps<{
  form: OptionForm
  field: FieldSource
  types: readonly string[]
  blocks: readonly string[]
  /** Of types and block types, by name. */
  labels: Readonly<Record<string, string>>
  textFields: readonly string[]
  assetFields: readonly string[]
  sections: readonly string[]
  /** Of a choice: the values that the adopted model has. */
  adoptedChoices: readonly string[]
  locales: readonly string[]
  defaultLocale: string
  problem: string | undefined
  disabled: boolean
}>()
const emit = defineEmits<{ change: [value: unknown] }>()
const id = useId()
const label = computed(() => t(form.label))
const value = computed(() => (field as Record<string, unknown>)[form.name])
const bounds = computed(() => (value.value ?? {}) as { min?: number | string; max?: number | string })
const pattern = computed(() => (value.value ?? {}) as { matches?: string; message?: string })
const from = computed(() => (value.value ?? {}) as Record<string, string>)

/** Texts that are parsed keep the typed text until they lose the focus. */
const written = ref('')
const print = (): string => {
  switch (form.control) {
    case 'schema':
      return value.value === undefined ? '' : JSON.stringify(value.value, null, 2)
    case 'media':
      return ((value.value ?? []) as string[]).join(', ')
    case 'each':
      return Object.entries((value.value ?? {}) as Record<string, { max?: number }>)
        .map(([name, { max }]) => `${name}: ${max ?? ''}`)
        .join('\n')
    case 'default':
      return printDefault(value.value)
    default:
      return ''
  }
}
watch([value, () => form.name], () => (written.value = print()), { immediate: true })
const wrong = ref('')

function read(): void {
  wrong.value = ''
  const text = written.value
  switch (form.control) {
    case 'schema': {
      const read = readJson(text)
      if ('wrong' in read) return void (wrong.value = read.wrong)
      return emit('change', read.value)
    }
    case 'media': {
      const all = text
        .split(',')
        .map((other) => other.trim())
        .filter(Boolean)
      return emit('change', all.length > 0 ? all : undefined)
    }
    case 'each': {
      const all = text.split('\n').flatMap((line) => {
        const [name, max] = line.split(':').map((part) => part.trim())
        return name && Number.isInteger(Number(max)) && max !== '' ? [[name, { max: Number(max) }] as const] : []
      })
      return emit('change', all.length > 0 ? Object.fromEntries(all) : undefined)
    }
    default:
      return emit('change', readDefault(text, field.kind))
  }
}

/** The default of an option: a kind may be indexed by default. */
const otherwise = computed(() => form.name === 'indexed' && (field.unique === true || kindNamed(field.kind).indexed))
const isChecked = computed(() => (value.value === undefined ? otherwise.value : value.value === true))
const check = (next: boolean): void => emit('change', next === otherwise.value ? undefined : next)

const text = (next: string): void => emit('change', next.trim() === '' ? undefined : next)
/** Both ends as they are being typed: `1.` is not a number yet, and stays. */
const ends = ref({ min: '', max: '' })
const asEnd = (text: string): number | string => (text !== '' && Number.isFinite(Number(text)) ? Number(text) : text)
watch(
  bounds,
  ({ min = '', max = '' }) => {
    if (asEnd(ends.value.min) !== min || asEnd(ends.value.max) !== max)
      ends.value = { min: String(min), max: String(max) }
  },
  { immediate: true },
)
function bound(end: 'min' | 'max', next: string, asNumber: boolean): void {
  ends.value[end] = next
  const both = {
    ...bounds.value,
    [end]: next.trim() === '' ? undefined : asNumber && Number.isFinite(Number(next)) ? Number(next) : next.trim(),
  }
  const kept = Object.fromEntries(Object.entries(both).filter(([, limit]) => limit !== undefined))
  emit('change', Object.keys(kept).length > 0 ? kept : undefined)
}
function patternPart(part: 'matches' | 'message', next: string): void {
  const changed = { matches: '', message: '', ...pattern.value, [part]: next }
  emit('change', changed.matches === '' && changed.message === '' ? undefined : changed)
}
function fromPart(part: string, next: string | undefined): void {
  const parts = Object.fromEntries(Object.entries({ ...from.value, [part]: next }).filter(([, name]) => name))
  emit('change', Object.keys(parts).length > 0 ? parts : undefined)
}
const hints: Record<string, string> = {
  showIf: 'format = "walk"',
  requireIf: 'price > 0',
  lockIf: 'entry.state != "new"',
}
</script>

<template>
  <div class="option">
    <ElCheckbox
      v-if="form.control === 'check'"
      :model-value="isChecked"
      :disabled="disabled"
      @update:model-value="check($event === true)"
      >{{ label }}</ElCheckbox
    >
    <CheckRules
      v-else-if="form.control === 'checks'"
      :value="value"
      :disabled="disabled"
      @change="emit('change', $event)"
    />
    <template v-else>
      <label :for="id">{{ label }}</label>
      <span v-if="form.control === 'bounds' || form.control === 'textBounds'" class="pair">
        <ElInput
          :id="id"
          :model-value="ends.min"
          :placeholder="t('options.leastHint')"
          :disabled="disabled"
          @input="bound('min', String($event), form.control === 'bounds')"
        />
        <ElInput
          :model-value="ends.max"
          :placeholder="t('options.mostHint')"
          :aria-label="t('options.most', { field: label })"
          :disabled="disabled"
          @input="bound('max', String($event), form.control === 'bounds')"
        />
      </span>
      <ElInput
        v-else-if="form.control === 'whole'"
        :id="id"
        :model-value="String(value ?? '')"
        inputmode="numeric"
        :disabled="disabled"
        @input="emit('change', String($event) === '' ? undefined : asEnd(String($event)))"
      />
      <span v-else-if="form.control === 'pattern'" class="stack">
        <ElInput
          :id="id"
          class="code"
          :model-value="pattern.matches ?? ''"
          placeholder="[A-Z]{2}-\d+"
          :disabled="disabled"
          @input="patternPart('matches', String($event))"
        />
        <ElInput
          :model-value="pattern.message ?? ''"
          :placeholder="t('options.patternExample')"
          :aria-label="t('options.patternMessage', { field: label })"
          :disabled="disabled"
          @input="patternPart('message', String($event))"
        />
      </span>
      <ElSelect
        v-else-if="form.control === 'types' || form.control === 'blocks'"
        :id="id"
        multiple
        filterable
        :model-value="(value as string[]) ?? []"
        :disabled="disabled"
        @update:model-value="emit('change', $event.length > 0 || field.kind !== 'richText' ? $event : undefined)"
      >
        <ElOption
          v-for="name in form.control === 'types' ? types : blocks"
          :key="name"
          :value="name"
          :label="labels[name] ?? name"
        />
      </ElSelect>
      <ElSelect
        v-else-if="form.control === 'textFields' || form.control === 'section'"
        :id="id"
        clearable
        :model-value="value as string"
        :disabled="disabled"
        @update:model-value="emit('change', $event || undefined)"
      >
        <ElOption
          v-for="name in form.control === 'section' ? sections : textFields"
          :key="name"
          :value="name"
          :label="name"
        />
      </ElSelect>
      <ChoiceOptions
        v-else-if="form.control === 'choices'"
        :id="id"
        :value="(value ?? []) as unknown[]"
        :adopted="adoptedChoices"
        :locales="locales"
        :default-locale="defaultLocale"
        :disabled="disabled"
        @change="emit('change', $event)"
      />
      <span v-else-if="form.control === 'metadataFrom'" class="stack">
        <ElSelect
          v-for="part in ['title', 'description', 'image']"
          :key="part"
          clearable
          :model-value="from[part] ?? ''"
          :placeholder="t('options.from', { part })"
          :aria-label="t('options.from', { part })"
          :disabled="disabled"
          @update:model-value="fromPart(part, $event)"
        >
          <ElOption
            v-for="name in part === 'image' ? assetFields : textFields"
            :key="name"
            :value="name"
            :label="`${part}: ${name}`"
          />
        </ElSelect>
      </span>
      <ElInput
        v-else-if="form.control === 'schema' || form.control === 'each'"
        :id="id"
        v-model="written"
        class="code"
        type="textarea"
        :autosize="{ minRows: 2, maxRows: 10 }"
        :disabled="disabled"
        @change="read"
      />
      <ElInput
        v-else-if="form.control === 'media' || form.control === 'default'"
        :id="id"
        v-model="written"
        :disabled="disabled"
        :placeholder="form.control === 'default' ? t('options.rangePlaceholder') : ''"
        @change="read"
      />
      <ElInput
        v-else-if="form.control === 'condition'"
        :id="id"
        class="code"
        :model-value="String(value ?? '')"
        :placeholder="hints[form.name] ?? ''"
        :disabled="disabled"
        :aria-invalid="problem !== undefined"
        @input="text(String($event))"
      />
      <ElInput
        v-else
        :id="id"
        :type="form.control === 'words' ? 'textarea' : 'text'"
        autosize
        :model-value="String(value ?? '')"
        :disabled="disabled"
        @input="text(String($event))"
      />
    </template>
    <p v-if="wrong || problem" class="error-text">{{ wrong || problem }}</p>
  </div>
</template>

<style scoped>
.option {
  margin-block-end: 8px;
}
label {
  display: block;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.stack {
  display: grid;
  gap: 4px;
}
.code :deep(input),
.code :deep(textarea) {
  font: 13px/20px var(--w-code);
}
p {
  margin: 2px 0 0;
  font-size: 12px;
  line-height: 16px;
}
</style>
