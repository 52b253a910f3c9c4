<script setup lang="ts">
import { Close, Plus } from '@element-plus/icons-vue'
import { ElButton, ElIcon, ElInput } from 'element-plus'
import { computed } from 'vue'
import { t } from '../messages'

/** Rules across the fields of a type, block type or group: a condition each, with its message. */
const { value, disabled } = defineProps<{ value: unknown; disabled: boolean }>()
const emit = defineEmits<{ change: [value: unknown] }>()

interface Rule {
  readonly holds: string
  readonly message?: string | undefined
}

const rules = computed<Rule[]>(() =>
  (value === undefined ? [] : [value].flat()).map((rule) =>
    typeof rule === 'string' ? { holds: rule } : (rule as Rule),
  ),
)

const example = 'until >= from'

/** The shortest way to write rules into a model file. */
function put(next: readonly Rule[]): void {
  const written = next.map(({ holds, message }) => (message ? { holds, message } : holds))
  emit('change', written.length > 1 ? written : written[0])
}
const change = (index: number, part: Partial<Rule>): void =>
  put(rules.value.map((rule, at) => (at === index ? { ...rule, ...part } : rule)))
</script>

<template>
  <div role="group" :aria-label="t('options.check')">
    <p class="title">{{ t('options.check') }}</p>
    <div v-for="(rule, index) in rules" :key="index" class="rule">
      <ElInput
        class="code"
        :model-value="rule.holds"
        :placeholder="example"
        :aria-label="t('options.check')"
        :disabled="disabled"
        @input="change(index, { holds: String($event) })"
      />
      <ElButton
        v-if="!disabled"
        text
        class="remove"
        :aria-label="t('options.removeRule', { rule: rule.holds })"
        @click="put(rules.filter((_, at) => at !== index))"
        ><ElIcon><Close /></ElIcon
      ></ElButton>
      <ElInput
        :model-value="rule.message ?? ''"
        :placeholder="t('options.checkMessage')"
        :aria-label="t('options.checkMessage')"
        :disabled="disabled"
        @input="change(index, { message: String($event) })"
      />
    </div>
    <ElButton v-if="!disabled" size="small" @click="put([...rules, { holds: '' }])"
      ><ElIcon><Plus /></ElIcon>&nbsp;{{ t('options.addRule') }}</ElButton
    >
  </div>
</template>

<style scoped>
.title {
  margin: 0;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
.rule {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 32px;
  gap: 4px 8px;
  margin-block-end: 8px;
}
.remove {
  inline-size: 32px;
  padding: 0;
}
.code :deep(input) {
  font: 13px/20px var(--w-code);
}
</style>
