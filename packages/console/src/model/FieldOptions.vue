<script setup lang="ts">
import { kindNamed, labelFrom, type FieldSource } from '@wisteria/core'
import { ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import KindPicker from './KindPicker.vue'
import { nameOf, type FieldPath, type DraftFile, type ModelDraft } from './modelDraft'
import OptionRow from './OptionRow.vue'
import { optionFormsFor } from './optionForms'
import { t } from '../messages'
import MessageText from '../components/MessageText.vue'

/** All options of one field. */
const { draft, held, path, locales, defaultLocale, disabled } = defineProps<{
  draft: ModelDraft
  held: DraftFile
  path: FieldPath
  locales: readonly string[]
  defaultLocale: string
  disabled: boolean
}>()
const emit = defineEmits<{ renamed: [path: FieldPath] }>()
const field = computed(() => draft.fieldAt(held.source, path))
const kind = computed(() => kindNamed(field.value!.kind))
const name = ref('')
const nameTrouble = ref('')
watch(
  () => path.join('.'),
  () => {
    name.value = path.at(-1)!
    nameTrouble.value = ''
  },
  { immediate: true },
)
const isBlock = computed(() => 'block' in held.source)
const forms = computed(() =>
  field.value
    ? optionFormsFor(
        field.value,
        path.length > 1 || isBlock.value,
        path.length === 1 && Object.keys(held.source.sections ?? {}).length > 0,
      )
    : [],
)
const names = (what: 'type' | 'block') =>
  draft.sources.filter(({ source }) => what in source).map(({ source }) => nameOf(source))
const labels = computed(() =>
  Object.fromEntries(draft.sources.map(({ source }) => [nameOf(source), source.label ?? labelFrom(nameOf(source))])),
)
const siblings = (...kinds: string[]) =>
  Object.entries(draft.fieldsAt(held.source, path.slice(0, -1)))
    .filter(([, sibling]) => kinds.includes(sibling.kind))
    .map(([name]) => name)

const pointer = computed(() => path.map((step) => `/fields/${step}`).join(''))
/** The problem of one option, or of the field as a whole. */
const problemOf = (option: string): string | undefined =>
  draft
    .problemsOf(held)
    .find(
      (problem) =>
        problem.pointer === `${pointer.value}/${option}` || problem.pointer?.startsWith(`${pointer.value}/${option}/`),
    )?.message
const ownProblem = computed(
  () =>
    draft
      .problemsOf(held)
      .find((problem) => problem.pointer === pointer.value || problem.pointer === `${pointer.value}/kind`)?.message,
)

function set(option: string, value: unknown): void {
  const options = field.value as Record<string, unknown>
  if (value === undefined) delete options[option]
  else options[option] = value
  // How many belongs to a field with multiple values.
  if (option === 'many' && value === undefined) delete options['count']
}

/** Another kind keeps the options of every kind, and those with the same name. */
function setKind(next: string): void {
  const options = field.value as Record<string, unknown> & FieldSource
  const stays = new Set([
    ...Object.keys(kindNamed(next).descriptions),
    'kind',
    'label',
    'help',
    'example',
    'section',
    'required',
    'localized',
    'many',
    'count',
    'showIf',
    'requireIf',
    'lockIf',
    'check',
    'was',
  ])
  for (const key of Object.keys(options)) if (!stays.has(key)) delete options[key]
  const target = kindNamed(next)
  if (target.single) set('many', undefined)
  if (target.shared) delete options.localized
  options.kind = next
  if (next === 'choice') options['options'] ??= ['first', 'second']
  if (next === 'entry') options['accepts'] = names('type').slice(0, 1)
  if (next === 'block') options['accepts'] = names('block').slice(0, 3)
  if (next === 'group') options['fields'] = { text: { kind: 'text' } }
}

function rename(): void {
  const renamed = draft.renameField(held, path, name.value.trim())
  nameTrouble.value = renamed ? '' : t('model.nameRule')
  if (renamed) emit('renamed', renamed)
}
const copyName = (): void => void navigator.clipboard?.writeText(path.join('.')).catch(() => undefined)
</script>

<template>
  <div v-if="field" class="options">
    <h2>
      {{ field.label ?? labelFrom(path.at(-1)!) }}
      <button class="plain" type="button" :title="t('model.copyName', { name: path.join('.') })" @click="copyName">
        <code>{{ path.join('.') }}</code>
      </button>
    </h2>
    <p class="quiet summary">{{ kind.summary.replaceAll('`', '') }}</p>
    <p v-if="ownProblem" class="error-text">{{ ownProblem }}</p>
    <div class="two">
      <div>
        <label for="field-label">{{ t('model.label') }}</label>
        <ElInput
          id="field-label"
          :model-value="field.label ?? labelFrom(path.at(-1)!)"
          :disabled="disabled"
          @input="
            set('label', String($event) === labelFrom(path.at(-1)!) || String($event) === '' ? undefined : $event)
          "
        />
      </div>
      <div>
        <label for="field-name">{{ t('model.apiName') }}</label>
        <ElInput id="field-name" v-model="name" class="code" :disabled="disabled" @change="rename" />
      </div>
    </div>
    <p v-if="nameTrouble" class="error-text">{{ nameTrouble }}</p>
    <p v-if="field.was" class="quiet summary">
      <MessageText of="model.stillAnswers"
        ><template #names
          ><code>{{ [field.was].flat().join(', ') }}</code></template
        ></MessageText
      >
      <button v-if="!disabled" class="plain link" type="button" @click="set('was', undefined)">
        {{ t('model.retireName') }}
      </button>
    </p>
    <label for="field-kind">{{ t('model.kind') }}</label>
    <KindPicker id="field-kind" :model-value="field.kind" :disabled="disabled" @update:model-value="setKind" />
    <div class="rows">
      <OptionRow
        v-for="form in forms"
        :key="form.name"
        :form="form"
        :field="field"
        :types="names('type')"
        :blocks="names('block')"
        :text-fields="siblings('text', 'longText')"
        :asset-fields="siblings('asset')"
        :labels="labels"
        :adopted-choices="form.control === 'choices' ? draft.adoptedChoices(held, path) : []"
        :locales="locales"
        :default-locale="defaultLocale"
        :sections="Object.keys(held.source.sections ?? {})"
        :problem="problemOf(form.name)"
        :disabled="disabled"
        @change="set(form.name, $event)"
      />
    </div>
  </div>
</template>

<style scoped>
h2 {
  font-size: 14px;
  line-height: 20px;
}
.summary {
  margin: 4px 0 12px;
  font-size: 12px;
  line-height: 16px;
}
label {
  display: block;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  margin-block-end: 8px;
}
.rows {
  margin-block-start: 12px;
}
.link {
  color: var(--w-accent);
  text-decoration: underline;
}
.code :deep(input) {
  font-family: var(--w-code);
}
</style>
