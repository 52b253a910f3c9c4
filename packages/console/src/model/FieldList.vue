<script setup lang="ts">
import { kindNamed, labelFrom, type FieldSource } from '@wisteria/core'
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, nextTick, ref } from 'vue'
import { useDragging } from '../components/dragging'
import KindPicker from './KindPicker.vue'
import { type FieldPath, type DraftFile, type ModelDraft } from './modelDraft'
import { kindLabel, t } from '../messages'

/** The fields of a type in order, groups with their fields. The last line is blank: label, Tab, kind, Enter. */
const { draft, held, chosen, lit, disabled } = defineProps<{
  draft: ModelDraft
  held: DraftFile
  chosen: FieldPath | undefined
  lit: string | undefined
  disabled: boolean
}>()
const emit = defineEmits<{ choose: [path: FieldPath | undefined]; light: [name: string | undefined] }>()

interface Line {
  readonly path: FieldPath
  readonly name: string
  readonly field: FieldSource
  readonly index: number
  readonly of: number
}
const lines = computed<Line[]>(() => {
  const all = (fields: Record<string, FieldSource>, around: FieldPath): Line[] =>
    Object.entries(fields).flatMap(([name, field], index, entries) => {
      const path = [...around, name]
      const inside = field.kind === 'group' ? all((field['fields'] ?? {}) as Record<string, FieldSource>, path) : []
      return [{ path, name, field, index, of: entries.length }, ...inside]
    })
  return all(held.source.fields, [])
})
const key = (path: FieldPath): string => path.join('.')
const isChosen = (path: FieldPath): boolean => chosen !== undefined && key(chosen) === key(path)
const wrong = computed(
  () =>
    new Set(
      draft
        .problemsOf(held)
        .map((problem) =>
          (problem.pointer ?? '')
            .split('/')
            .filter((step) => step !== 'fields')
            .slice(1),
        )
        .map((steps) => steps[0] ?? ''),
    ),
)

const label = ref('')
const kind = ref('text')
const around = ref<FieldPath>([])
const groups = computed(() => lines.value.filter((line) => line.field.kind === 'group'))

async function add(): Promise<void> {
  const path = draft.addField(held.source, around.value, label.value.trim(), kind.value)
  if (!path) return
  label.value = ''
  kind.value = 'text'
  emit('choose', path)
  await nextTick()
  document.getElementById('new-label')?.focus()
}

async function move(line: Line, to: number): Promise<void> {
  draft.moveField(held.source, line.path, to)
  await nextTick()
  document.getElementById(`line-${key(line.path)}`)?.focus()
}

const placeOf = (line: Line): string => key(line.path.slice(0, -1))
const { dragged, place, from, onto } = useDragging<Line, Line>(
  (line, target) => (placeOf(line) === placeOf(target) && key(line.path) !== key(target.path) ? target : undefined),
  (line, target) => move(line, target.index),
)
/** The edge of a line at which the dragged one would be inserted. */
const edgeOf = (line: Line): string =>
  !dragged.value || !place.value || key(place.value.path) !== key(line.path)
    ? ''
    : dragged.value.index > line.index
      ? 'before'
      : 'after'

function onKey(event: KeyboardEvent, line: Line): void {
  if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
    event.preventDefault()
    if (!disabled) void move(line, line.index + (event.key === 'ArrowUp' ? -1 : 1))
  } else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
    event.preventDefault()
    const at =
      lines.value.findIndex((candidate) => key(candidate.path) === key(line.path)) + (event.key === 'ArrowUp' ? -1 : 1)
    const next = lines.value[at]
    if (next) document.getElementById(`line-${key(next.path)}`)?.focus()
  } else if (event.key === 'Enter' || event.key === ' ') {
    event.preventDefault()
    emit('choose', line.path)
  } else if (event.key === 'Delete' && !disabled) remove(line)
}

function remove(line: Line): void {
  draft.removeField(held.source, line.path)
  emit('choose', undefined)
}
const marks = (field: FieldSource): string =>
  [
    field.required && t('model.required'),
    field.localized && t('model.perLocale'),
    field.many && t('model.many'),
    field.showIf && t('model.if'),
  ]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <div class="fields">
    <ol>
      <li
        v-for="line in lines"
        :id="`line-${key(line.path)}`"
        :key="key(line.path)"
        tabindex="0"
        :draggable="!disabled"
        :class="[
          edgeOf(line),
          { chosen: isChosen(line.path), lit: lit === line.path[0], wrong: wrong.has(line.path[0]!) },
        ]"
        :style="{ paddingInlineStart: `${12 + (line.path.length - 1) * 20}px` }"
        :aria-label="
          t('model.fieldKeys', {
            field: line.field.label ?? labelFrom(line.name),
            kind: kindLabel(kindNamed(line.field.kind)),
          })
        "
        :aria-current="isChosen(line.path)"
        @click="emit('choose', line.path)"
        @focus="emit('light', line.path[0])"
        @mouseenter="emit('light', line.path[0])"
        @mouseleave="emit('light', undefined)"
        @keydown="onKey($event, line)"
        v-on="{ ...from(line), ...onto(line) }"
      >
        <span class="label">{{ line.field.label ?? labelFrom(line.name) }}</span>
        <code>{{ line.name }}</code>
        <span class="kind"
          >{{ kindLabel(kindNamed(line.field.kind))
          }}<template v-if="marks(line.field)">, {{ marks(line.field) }}</template></span
        >
        <button
          v-if="!disabled"
          class="plain remove"
          type="button"
          tabindex="-1"
          :aria-label="t('controls.removeNamed', { name: line.name })"
          @click.stop="remove(line)"
        >
          {{ t('common.remove') }}
        </button>
      </li>
    </ol>
    <form v-if="!disabled" class="new" :aria-label="t('model.newField')" @submit.prevent="add">
      <ElInput
        id="new-label"
        v-model="label"
        :placeholder="t('model.newFieldLabel')"
        :aria-label="t('model.labelOfNewField')"
      />
      <KindPicker v-model="kind" :aria-label="t('model.kindOfNewField')" @keydown.enter.prevent="add" />
      <ElSelect
        v-if="groups.length > 0"
        :model-value="key(around)"
        :aria-label="t('model.placeOfNewField')"
        @update:model-value="(text: string) => (around = text === '' ? [] : text.split('.'))"
      >
        <ElOption value="" :label="t('model.inTheType')" />
        <ElOption
          v-for="line in groups"
          :key="key(line.path)"
          :value="key(line.path)"
          :label="t('model.inField', { field: line.field.label ?? labelFrom(line.name) })"
        />
      </ElSelect>
      <ElButton native-type="submit" :disabled="!/^\s*[A-Za-zÀ-ž]/.test(label)">{{ t('common.add') }}</ElButton>
    </form>
  </div>
</template>

<style scoped>
ol {
  margin: 0 0 12px;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 8px;
  padding-block: 6px;
  padding-inline-end: 12px;
  border-block-end: 1px solid var(--w-hair);
  border-inline-start: 3px solid transparent;
  cursor: pointer;
}
li.lit {
  background: var(--w-sunk);
}
li.chosen {
  border-inline-start-color: var(--w-accent);
  background: var(--w-accent-wash);
}
li.before {
  box-shadow: inset 0 2px var(--w-accent);
}
li.after {
  box-shadow: inset 0 -2px var(--w-accent);
}
li.wrong .label {
  color: var(--w-error);
}
.label {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
code {
  color: var(--w-ink3);
}
.kind {
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
.remove {
  font-size: 12px;
  color: var(--w-ink2);
  opacity: 0;
  text-align: end;
}
li:hover .remove,
li:focus .remove {
  opacity: 1;
}
.new {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 140px;
  gap: 8px;
}
</style>
