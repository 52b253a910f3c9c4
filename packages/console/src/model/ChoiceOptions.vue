<script setup lang="ts">
import { Close, Plus } from '@element-plus/icons-vue'
import { ElButton, ElCheckbox, ElIcon, ElInput } from 'element-plus'
import { computed, nextTick, ref, watch } from 'vue'
import { t } from '../messages'
import {
  hasLocaleLabels,
  readOptions,
  shownLabel,
  withLocaleLabels,
  withValue,
  writeOptions,
  type OptionDraft,
} from './choiceOptions'

/** The options of a choice: a line each with its value and its label, or a label for each locale. */
const { value, adopted, locales, defaultLocale, disabled } = defineProps<{
  value: readonly unknown[]
  /** The values that the adopted model has. */
  adopted: readonly string[]
  locales: readonly string[]
  defaultLocale: string
  disabled: boolean
}>()
const emit = defineEmits<{ change: [value: unknown[]] }>()

const options = ref<OptionDraft[]>([])
watch(
  () => value,
  (now) => {
    // A label that is being typed, with a space at its end, stays.
    if (JSON.stringify(writeOptions(options.value)) !== JSON.stringify(now)) options.value = readOptions(now)
  },
  { immediate: true },
)
const isPerLocale = ref(hasLocaleLabels(options.value))
const tags = computed(() => (isPerLocale.value ? locales : ['']))

function put(next: OptionDraft[]): void {
  options.value = next
  emit('change', writeOptions(next))
}
const change = (index: number, next: OptionDraft): void =>
  put(options.value.map((option, at) => (at === index ? next : option)))
const setLabel = (index: number, locale: string, text: string): void => {
  const option = options.value[index]!
  change(index, { ...option, labels: { ...option.labels, [locale]: text } })
}
function setPerLocale(next: boolean): void {
  isPerLocale.value = next
  put(withLocaleLabels(options.value, next, defaultLocale))
}

const list = ref<HTMLElement>()
const focusValue = (index: number): Promise<void> =>
  nextTick(() => list.value?.querySelectorAll<HTMLInputElement>('input.el-input__inner[data-value]')[index]?.focus())
function add(): void {
  const taken = new Set(options.value.map((option) => option.value))
  let number = options.value.length + 1
  while (taken.has(`option${number}`)) number++
  put([...options.value, { value: `option${number}`, labels: {}, was: [] }])
  void focusValue(options.value.length - 1)
}
const remove = (index: number): void => put(options.value.filter((_, at) => at !== index))
function move(index: number, by: number): void {
  const to = index + by
  if (to < 0 || to >= options.value.length) return
  const next = [...options.value]
  const [moved] = next.splice(index, 1)
  next.splice(to, 0, moved!)
  put(next)
  void focusValue(to)
}
</script>

<template>
  <div class="choice-options">
    <ul ref="list">
      <li v-for="(option, index) in options" :key="index">
        <ElInput
          class="value code"
          data-value
          :model-value="option.value"
          :aria-label="t('options.valueOf', { n: index + 1 })"
          :title="t('options.moveByKeys')"
          :disabled="disabled"
          @change="(text: string) => change(index, withValue(option, text.trim(), adopted))"
          @keydown.alt.up.prevent="move(index, -1)"
          @keydown.alt.down.prevent="move(index, 1)"
        />
        <span class="labels">
          <span v-for="tag in tags" :key="tag" class="label">
            <bdi v-if="tag" class="tag" dir="ltr">{{ tag }}</bdi>
            <ElInput
              :model-value="shownLabel(option, tag)"
              :lang="tag || undefined"
              dir="auto"
              :aria-label="
                tag
                  ? t('options.labelOfIn', { option: option.value, locale: tag })
                  : t('options.labelOf', { option: option.value })
              "
              :disabled="disabled"
              @input="setLabel(index, tag, String($event))"
            />
          </span>
          <span v-if="option.was.length > 0" class="quiet was">{{
            t('options.wasValue', { values: option.was.join(', ') })
          }}</span>
        </span>
        <ElButton
          v-if="!disabled"
          text
          class="remove"
          :aria-label="t('options.removeOption', { option: option.value })"
          :disabled="options.length === 1"
          @click="remove(index)"
          ><ElIcon><Close /></ElIcon
        ></ElButton>
      </li>
    </ul>
    <p v-if="!disabled" class="foot">
      <ElButton size="small" @click="add"
        ><ElIcon><Plus /></ElIcon>&nbsp;{{ t('options.addOption') }}</ElButton
      >
      <ElCheckbox
        v-if="locales.length > 1"
        :model-value="isPerLocale"
        @update:model-value="setPerLocale($event === true)"
        >{{ t('options.labelsPerLocale') }}</ElCheckbox
      >
    </p>
  </div>
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 112px minmax(0, 1fr) 32px;
  gap: 4px 8px;
  align-items: start;
  margin-block-end: 4px;
}
.labels {
  display: grid;
  gap: 4px;
}
.label {
  display: flex;
  align-items: center;
  gap: 4px;
}
.tag {
  flex: none;
  inline-size: 40px;
  font-size: 12px;
  color: var(--w-ink2);
}
.was {
  font-size: 12px;
  line-height: 16px;
}
.remove {
  inline-size: 32px;
  padding: 0;
}
.foot {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 16px;
  margin: 4px 0 0;
}
.code :deep(input) {
  font: 13px/20px var(--w-code);
}
</style>
