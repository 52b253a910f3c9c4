<script setup lang="ts">
import type { ListedEntry } from '@wisteria/client'
import { askables, factPath, operatorsFor, writeTest, type ContentType, type Operator } from '@wisteria/core'
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import PopPanel from './PopPanel.vue'
import type { Site } from '../session'
import { regionsOf } from '../counterparts/regionNames'
import { t } from '../messages'

/** Builds one test of a condition by choosing: field, operator, value. */
const {
  site,
  types,
  disabled = false,
} = defineProps<{
  site: Site
  types: readonly ContentType[]
  disabled?: boolean
}>()
const emit = defineEmits<{ add: [test: string] }>()

/** Operators in words, for those who choose and do not write. */
const operatorNames = {
  '=': 'is',
  '!=': 'isNot',
  '<': 'less',
  '<=': 'atMost',
  '>': 'more',
  '>=': 'atLeast',
  in: 'oneOf',
  contains: 'contains',
  'starts with': 'startsWith',
  'has value': 'hasValue',
  'has no value': 'hasNoValue',
} as const satisfies Record<Operator, string>

const isOpen = ref(false)
const path = ref('')
const operator = ref<Operator>('=')
const operand = ref('')

const people = computed(() => site.members.map(({ email, name }) => ({ value: email, label: name })))
const regions = computed(() => regionsOf(site.settings).map(({ name, label }) => ({ value: name, label })))
const all = computed(() =>
  askables(site.model, types, {
    state: t('conditions.facts.state'),
    freshness: t('conditions.facts.freshness'),
    ...(types.some(({ regional }) => regional) && regions.value.length > 0
      ? { region: t('conditions.facts.region') }
      : {}),
    updated: t('conditions.facts.updated'),
    updatedBy: t('conditions.facts.updatedBy'),
    published: t('conditions.facts.published'),
    ...(types.length > 1 ? { type: t('conditions.facts.type') } : {}),
  }).map((askable) =>
    askable.path === factPath('updatedBy')
      ? { ...askable, options: people.value }
      : askable.path === factPath('region')
        ? { ...askable, options: regions.value }
        : askable,
  ),
)
const chosen = computed(() => all.value.find((piece) => piece.path === path.value))
const operators = computed(() => (chosen.value ? operatorsFor(chosen.value) : []))
const needsOperand = computed(() => !['has value', 'has no value'].includes(operator.value))
const hint = computed(() => {
  switch (chosen.value?.comparison) {
    case 'date':
      return t('conditions.exampleDate')
    case 'dateTime':
      return t('conditions.exampleDateTime')
    case 'number':
      return t('conditions.aNumber')
    case 'span':
      return t('conditions.exampleSpan')
    default:
      return t('conditions.wordsPlaceholder')
  }
})
/** Entries that a reference may lead to, by their titles. */
const candidates = ref<readonly ListedEntry[]>([])
let latest = ''
async function find(words: string): Promise<void> {
  const { types: targets = [] } = chosen.value ?? {}
  latest = words
  const found = await Promise.all(
    targets.map(async (type) =>
      words.trim() === ''
        ? (await site.editor.entries({ type, first: 20 })).entries
        : (await site.editor.search(words, { type, first: 20 })).entries,
    ),
  ).catch(() => [])
  if (latest === words) candidates.value = found.flat()
}

watch(path, () => {
  candidates.value = []
  if (chosen.value?.types) void find('')
  operator.value = operators.value[0] ?? '='
  operand.value = chosen.value?.options?.[0]?.value ?? (chosen.value?.comparison === 'boolean' ? 'true' : '')
})

function add(): void {
  if (!chosen.value || (needsOperand.value && operand.value.trim() === '')) return
  emit('add', writeTest(chosen.value, operator.value, operand.value.trim()))
  isOpen.value = false
  path.value = ''
}
</script>

<template>
  <PopPanel v-model="isOpen" :label="t('conditions.addMore')" :width="380" placement="bottom-end">
    <template #reference>
      <ElButton :disabled="disabled" aria-haspopup="dialog">{{ t('conditions.addMore') }}</ElButton>
    </template>
    <form class="pieces" @submit.prevent="add">
      <ElSelect
        v-model="path"
        filterable
        default-first-option
        :placeholder="t('conditions.what')"
        :aria-label="t('conditions.whatIsAsked')"
        :teleported="false"
      >
        <ElOption v-for="askable in all" :key="askable.path" :value="askable.path" :label="askable.label" />
      </ElSelect>
      <template v-if="chosen">
        <ElSelect v-model="operator" :aria-label="t('conditions.how')" :teleported="false">
          <ElOption
            v-for="item in operators"
            :key="item"
            :value="item"
            :label="t(`conditions.operators.${operatorNames[item]}`)"
          />
        </ElSelect>
        <template v-if="needsOperand">
          <ElSelect
            v-if="chosen.options"
            v-model="operand"
            :aria-label="t('conditions.againstWhat')"
            :teleported="false"
          >
            <ElOption
              v-for="option in chosen.options"
              :key="option.value"
              :value="option.value"
              :label="option.label"
            />
          </ElSelect>
          <ElSelect
            v-else-if="chosen.comparison === 'boolean'"
            v-model="operand"
            :aria-label="t('conditions.againstWhat')"
            :teleported="false"
          >
            <ElOption value="true" :label="t('conditions.yes')" />
            <ElOption value="false" :label="t('conditions.no')" />
          </ElSelect>
          <ElSelect
            v-else-if="chosen.types"
            v-model="operand"
            filterable
            remote
            default-first-option
            :remote-method="find"
            :placeholder="t('conditions.findEntry')"
            :aria-label="t('conditions.againstWhat')"
            :teleported="false"
          >
            <ElOption
              v-for="entry in candidates"
              :key="entry.id"
              :value="entry.id"
              :label="entry.title || t('common.noName')"
            />
          </ElSelect>
          <ElInput v-else v-model="operand" :placeholder="hint" :aria-label="t('conditions.againstWhat')" />
        </template>
        <span
          ><ElButton native-type="submit" size="small" :disabled="needsOperand && operand.trim() === ''">{{
            t('conditions.add')
          }}</ElButton></span
        >
      </template>
    </form>
  </PopPanel>
</template>

<style scoped>
.pieces {
  display: grid;
  gap: 8px;
}
</style>
