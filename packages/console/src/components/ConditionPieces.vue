<script setup lang="ts">
import { askables, operatorsFor, operatorWords, writeTest, type ContentType, type Operator } from '@wisteria/core'
import { ElButton, ElInput, ElOption, ElPopover, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import type { Site } from '../session'

/** Builds one test of a condition by choosing: what, how, and against what. */
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

const isOpen = ref(false)
const path = ref('')
const operator = ref<Operator>('=')
const operand = ref('')

const all = computed(() =>
  askables(site.model, types, ['state', 'updated', 'published', ...(types.length > 1 ? ['type' as const] : [])]),
)
const chosen = computed(() => all.value.find((one) => one.path === path.value))
const operators = computed(() => (chosen.value ? operatorsFor(chosen.value) : []))
const needsOperand = computed(() => !['has value', 'has no value'].includes(operator.value))
const hint = computed(() => {
  switch (chosen.value?.comparison) {
    case 'date':
      return '2031-03-12, or $today + 7 days'
    case 'dateTime':
      return '2031-03-12T09:00:00Z, or $now - 7 days'
    case 'number':
      return 'A number'
    case 'span':
      return 'PT1H30M'
    default:
      return 'Words'
  }
})
watch(path, () => {
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
  <ElPopover v-model:visible="isOpen" trigger="click" :width="380" placement="bottom-end">
    <template #reference>
      <ElButton :disabled="disabled" aria-haspopup="dialog">Add a condition…</ElButton>
    </template>
    <form class="pieces" @submit.prevent="add">
      <ElSelect v-model="path" filterable placeholder="What" aria-label="What is asked" :teleported="false">
        <ElOption v-for="one in all" :key="one.path" :value="one.path" :label="one.label" />
      </ElSelect>
      <template v-if="chosen">
        <ElSelect v-model="operator" aria-label="How" :teleported="false">
          <ElOption v-for="one in operators" :key="one" :value="one" :label="operatorWords[one]" />
        </ElSelect>
        <template v-if="needsOperand">
          <ElSelect v-if="chosen.options" v-model="operand" aria-label="Against what" :teleported="false">
            <ElOption v-for="one in chosen.options" :key="one.value" :value="one.value" :label="one.label" />
          </ElSelect>
          <ElSelect
            v-else-if="chosen.comparison === 'boolean'"
            v-model="operand"
            aria-label="Against what"
            :teleported="false"
          >
            <ElOption value="true" label="yes" />
            <ElOption value="false" label="no" />
          </ElSelect>
          <ElInput v-else v-model="operand" :placeholder="hint" aria-label="Against what" />
        </template>
        <span
          ><ElButton native-type="submit" size="small" :disabled="needsOperand && operand.trim() === ''"
            >Add it</ElButton
          ></span
        >
      </template>
    </form>
  </ElPopover>
</template>

<style scoped>
.pieces {
  display: grid;
  gap: 8px;
}
</style>
