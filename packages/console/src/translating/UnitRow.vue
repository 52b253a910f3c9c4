<script setup lang="ts">
import {
  compareWords,
  directionOf,
  isToDo,
  printCoded,
  wordsOf,
  type GlossaryTerm,
  type MemoryMatch,
  type UnitView,
} from '@wisteria/core'
import { ElButton, ElInput, type InputInstance } from 'element-plus'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import ChangedWords from '../components/ChangedWords.vue'
import { ago } from '../times'
import { t } from '../messages'
import { faultIn, wordsIn, type Mark } from './bench'
import CodedText from './CodedText.vue'
import HelpPanel from './HelpPanel.vue'
import UnitMark from './UnitMark.vue'

/** A unit: its source, its state and its translation; while it is worked on, also what helps with it. */
const props = defineProps<{
  unit: UnitView
  text: string
  source: string
  locale: string
  isHere: boolean
  mayWrite: boolean
  /** Whether its field has no other text: it can be empty on purpose. */
  isAlone: boolean
  /** Whether the row above is of the same field. */
  isSameField: boolean
  isChanged: boolean
  /** What somebody else saved, where both wrote. */
  theirs: string | undefined
  /** Why the service does not take the text. */
  refused: string | undefined
  terms: readonly GlossaryTerm[]
  /** Earlier translations, while it is worked on. */
  matches: readonly MemoryMatch[]
}>()
const emit = defineEmits<{
  focus: []
  write: [text: string]
  mark: [as: Mark]
  settle: [keep: 'mine' | 'theirs']
}>()

const input = useTemplateRef<InputInstance>('input')
const help = useTemplateRef<InstanceType<typeof HelpPanel>>('help')
defineExpose({ focus: () => input.value?.focus() })

const fault = computed(() => faultIn(props.unit, props.text) ?? props.refused)
const size = computed(() => [...wordsIn(props.unit, props.text)].length)
const isTooLong = computed(() => props.unit.maxLength !== null && size.value > props.unit.maxLength)
/** What changed in the source since the translation was made; undefined where it is not known. */
const changed = computed(() =>
  props.unit.state === 'outdated' && props.unit.sourceThen
    ? compareWords(wordsOf(props.unit.sourceThen), wordsOf(props.unit.source), props.source)
    : undefined,
)
const label = computed(() => props.unit.labels.join(' › '))
const codes = computed(() => Object.entries(props.unit.codes))
const isMissing = computed(() => props.unit.translation === null && props.text === '')
const codeName = (type: string): string =>
  t(`translating.codes.${type as 'strong' | 'emphasis' | 'delete' | 'inlineCode' | 'link' | 'image' | 'break'}`)

/** Puts a code around the selection, or at the caret where it stands alone. */
async function insertCode(code: string): Promise<void> {
  const element = input.value?.textarea
  if (!element) return
  const [from, to] = [element.selectionStart, element.selectionEnd]
  const isPair = printCoded(props.unit.source).includes(`</${code}>`)
  const inside = props.text.slice(from, to)
  const put = isPair ? `<${code}>${inside}</${code}>` : `<${code}/>`
  emit('write', props.text.slice(0, from) + put + props.text.slice(to))
  await nextTick()
  element.focus()
  const caret = from + (isPair && inside === '' ? `<${code}>`.length : put.length)
  element.setSelectionRange(caret, caret)
}
const copySource = (): void => emit('write', printCoded(props.unit.source))

function onKey(event: Event): void {
  if (!(event instanceof KeyboardEvent)) return
  if (event.key === 'Enter' && !event.ctrlKey && !event.metaKey) event.preventDefault()
  const digit = /^Digit([1-9])$/.exec(event.code)?.[1]
  const code = digit === undefined ? undefined : codes.value[Number(digit) - 1]?.[0]
  if (event.altKey && !event.ctrlKey && !event.metaKey && code !== undefined) {
    event.preventDefault()
    void insertCode(code)
  }
  if (event.altKey && event.key === 'Enter') {
    event.preventDefault()
    help.value?.takeBest()
  }
  if (event.altKey && event.key === 'Insert') {
    event.preventDefault()
    copySource()
  }
}
const hasFocus = ref(false)
function onFocus(): void {
  hasFocus.value = true
  emit('focus')
}
</script>

<template>
  <section class="unit" :class="{ here: isHere }" :aria-label="label" :data-unit="unit.unit">
    <p class="label">
      <span :class="{ 'visually-hidden': isSameField }">{{ label }}</span>
      <span v-if="isChanged" class="edited-word"
        ><span aria-hidden="true">◐</span> {{ fault ? t('translating.notSaved') : t('translating.edited') }}</span
      >
    </p>
    <p class="source content" :lang="source" :dir="directionOf(source)">
      <ChangedWords v-if="changed" :pieces="changed" />
      <CodedText v-else :text="unit.source" :codes="unit.codes" />
    </p>
    <p class="mark"><UnitMark :state="unit.state" /></p>
    <div class="target" :lang="locale" :dir="directionOf(locale)">
      <ElInput
        ref="input"
        type="textarea"
        autosize
        resize="none"
        :model-value="text"
        :disabled="!mayWrite"
        :aria-label="t('translating.translationOf', { field: label })"
        :placeholder="
          unit.state === 'notNeeded'
            ? t('translating.readersGetSource')
            : unit.state === 'empty'
              ? t('translating.readersGetNothing')
              : ''
        "
        :aria-invalid="fault !== undefined || isTooLong"
        @update:model-value="emit('write', $event)"
        @focus="onFocus"
        @keydown="onKey"
      />
      <p v-if="fault" class="error-text" role="alert">{{ fault }}</p>
      <p v-if="isTooLong" class="error-text">{{ t('translating.tooLong', { size, max: unit.maxLength! }) }}</p>
      <div v-if="theirs !== undefined" class="both" role="alert">
        <p>{{ t('translating.otherWrote') }}</p>
        <p class="serif" dir="auto">{{ theirs === '' ? t('translating.removedIt') : theirs }}</p>
        <ElButton size="small" @click="emit('settle', 'mine')">{{ t('translating.keepMine') }}</ElButton>
        <ElButton size="small" @click="emit('settle', 'theirs')">{{ t('translating.takeTheirs') }}</ElButton>
      </div>
    </div>
    <div v-if="isHere" class="help">
      <p class="quiet notes">
        <span v-if="unit.state === 'outdated'">{{
          unit.since ? t('translating.changedSince', { when: ago(unit.since) }) : t('translating.hasChanged')
        }}</span>
        <span v-if="unit.state === 'outdated' && !unit.sourceThen">{{ t('translating.noSourceThen') }}</span>
        <span v-if="unit.maxLength !== null">{{ t('common.sizeOf', { size, max: unit.maxLength }) }}</span>
      </p>
      <p v-if="mayWrite" class="tools">
        <ElButton
          v-for="([code, { type }], index) in codes"
          :key="code"
          size="small"
          :title="t('translating.codeKey', { number: index + 1 })"
          @click="insertCode(code)"
          >{{ code }} {{ codeName(type) }}</ElButton
        >
        <ElButton size="small" @click="copySource">{{ t('translating.copySource') }}</ElButton>
        <ElButton v-if="unit.state === 'outdated'" size="small" @click="emit('mark', 'stillRight')">{{
          t('translating.stillRight')
        }}</ElButton>
        <ElButton v-if="isMissing && isToDo(unit)" size="small" @click="emit('mark', 'needsNone')">{{
          t('translating.needsNone')
        }}</ElButton>
        <ElButton v-if="isMissing && isAlone && isToDo(unit)" size="small" @click="emit('mark', 'empty')">{{
          t('translating.leaveEmpty')
        }}</ElButton>
        <ElButton v-if="unit.state === 'notNeeded'" size="small" @click="emit('mark', 'needed')">{{
          t('translating.needed')
        }}</ElButton>
      </p>
      <div class="panel">
        <HelpPanel
          ref="help"
          :unit="unit"
          :text="text"
          :source="source"
          :locale="locale"
          :terms="terms"
          :matches="mayWrite ? matches : []"
          @take="emit('write', $event)"
        />
      </div>
    </div>
  </section>
</template>

<style scoped>
.unit {
  display: grid;
  grid-template-columns: minmax(0, 480px) 32px minmax(0, 480px);
  padding: 12px 24px;
  border-inline-start: 3px solid transparent;
  scroll-margin-block: 80px;
}
.here {
  border-color: var(--w-accent);
  background: var(--w-ground);
}
.unit > * {
  margin: 0;
}
.label {
  grid-column: 1 / -1;
  font-size: 13px;
  color: var(--w-ink2);
}
.edited-word {
  margin-inline-start: 8px;
  color: var(--w-edited);
}
.source {
  grid-column: 1;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
}
.mark {
  grid-column: 2;
  padding-block-start: 6px;
  text-align: center;
}
.target {
  grid-column: 3;
}
.target :deep(.el-textarea__inner) {
  padding: 0 0 4px;
  box-shadow: none;
  border: 0;
  border-block-end: 1px solid var(--w-rule);
  border-radius: 0;
  background: none;
  font: 17px/28px var(--w-content);
  color: var(--w-ink);
}
.target:lang(ar) :deep(.el-textarea__inner) {
  font-size: 18.7px;
  line-height: 1.8;
}
.target :deep(.el-textarea__inner:focus) {
  border-block-end-color: var(--w-accent);
  box-shadow: 0 1px 0 var(--w-accent);
}
.target p {
  margin: 4px 0 0;
  font-size: 13px;
}
.both {
  margin-block-start: 8px;
  padding: 8px 12px;
  background: var(--w-edited-wash);
}
.both .serif {
  font-size: 15px;
  margin-block-end: 8px;
}
.both .el-button {
  margin-inline-end: 8px;
}
.help {
  grid-column: 1 / -1;
  display: grid;
  grid-template-columns: minmax(0, 480px) 32px minmax(0, 480px);
  gap: 8px 0;
  padding-block-start: 8px;
  font-size: 13px;
}
.help p {
  margin: 0;
}
.notes {
  grid-column: 1;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
}
.panel {
  grid-column: 3;
  display: grid;
  gap: 8px;
}
.tools {
  grid-column: 3;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
@media (max-width: 900px) {
  .unit,
  .help {
    grid-template-columns: 24px minmax(0, 1fr);
  }
  .unit {
    padding-inline: 12px;
  }
  .label,
  .source {
    grid-column: 1 / -1;
  }
  .mark {
    grid-column: 1;
  }
  .target,
  .notes,
  .panel,
  .tools {
    grid-column: 2;
  }
}
</style>
