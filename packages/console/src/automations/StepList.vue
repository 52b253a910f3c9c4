<script setup lang="ts">
import {
  partsOfStep,
  stepSays,
  withoutStep,
  withPart,
  withStep,
  withStepMoved,
  type AutomationPlace,
  type AutomationStep,
} from '@wisteria/core'
import { ElButton, ElDropdown, ElDropdownItem, ElDropdownMenu } from 'element-plus'
import { computed } from 'vue'
import LateInput from '../components/LateInput.vue'
import { t } from '../messages'
import type { Site } from '../session'
import PartField from './PartField.vue'
import { partLabel, stepLabel } from './words'

/** Steps, one below the other; those of `each` stand inside it. */
const {
  site,
  steps,
  place,
  connectors,
  isInside = false,
} = defineProps<{
  site: Site
  steps: unknown
  /** Of the list, in the text. */
  place: AutomationPlace
  connectors: readonly string[]
  isInside?: boolean
}>()
/** The text of the automation. */
const text = defineModel<string>({ required: true })

type Draft = Readonly<Record<string, unknown>>
const list = computed(() => (Array.isArray(steps) ? steps : []) as readonly (Draft | null)[])
const kinds = (Object.keys(stepSays) as AutomationStep['do'][]).filter((kind) => !isInside || kind !== 'each')
const kindOf = (step: Draft | null): AutomationStep['do'] | undefined =>
  kinds.find((kind) => kind === step?.['do']) ?? (step?.['do'] === 'each' ? 'each' : undefined)
const nameOf = (step: Draft | null): string => {
  const kind = kindOf(step)
  return kind ? stepLabel(kind) : String(step?.['do'] ?? '')
}
const set = (index: number, part: string, value: unknown): void =>
  void (text.value = withPart(text.value, [...place, index, part], value))
const add = (kind: AutomationStep['do']): void => void (text.value = withStep(text.value, place, { do: kind }))
const move = (from: number, to: number): void => void (text.value = withStepMoved(text.value, place, from, to))
const remove = (index: number): void => void (text.value = withoutStep(text.value, place, index))
const common = ['if', 'name'] as const
</script>

<template>
  <ol class="steps">
    <li v-for="(step, index) in list" :key="index" class="step">
      <div class="head">
        <b>{{ nameOf(step) }}</b>
        <span class="gap" />
        <ElButton
          text
          size="small"
          :disabled="index === 0"
          :aria-label="t('automations.stepUp', { n: index + 1 })"
          @click="move(index, index - 1)"
          >↑</ElButton
        >
        <ElButton
          text
          size="small"
          :disabled="index === list.length - 1"
          :aria-label="t('automations.stepDown', { n: index + 1 })"
          @click="move(index, index + 1)"
          >↓</ElButton
        >
        <ElButton text size="small" :aria-label="t('automations.removeStep', { n: index + 1 })" @click="remove(index)"
          >✕</ElButton
        >
      </div>
      <template v-if="step && kindOf(step)">
        <template v-for="part in partsOfStep(kindOf(step)!)" :key="part.name">
          <StepList
            v-if="part.is === 'steps'"
            v-model="text"
            :site="site"
            :steps="step[part.name]"
            :place="[...place, index, part.name]"
            :connectors="connectors"
            is-inside
          />
          <PartField
            v-else
            :site="site"
            :part="part"
            :value="step[part.name]"
            :around="step"
            :connectors="connectors"
            @change="set(index, part.name, $event)"
          />
        </template>
        <div class="common">
          <label v-for="name in common" :key="name"
            ><span>{{ partLabel(name) }}</span>
            <LateInput
              :value="String(step[name] ?? '')"
              size="small"
              class="code"
              dir="ltr"
              :aria-label="partLabel(name)"
              @change="set(index, name, $event.trim() === '' ? undefined : $event)"
            />
          </label>
        </div>
      </template>
    </li>
  </ol>
  <ElDropdown trigger="click" @command="add">
    <ElButton size="small">{{ isInside ? t('automations.addInside') : t('automations.addStep') }}</ElButton>
    <template #dropdown>
      <ElDropdownMenu>
        <ElDropdownItem v-for="kind in kinds" :key="kind" :command="kind">{{ stepLabel(kind) }}</ElDropdownItem>
      </ElDropdownMenu>
    </template>
  </ElDropdown>
</template>

<style scoped>
.steps {
  display: grid;
  gap: 12px;
  margin: 0 0 8px;
  padding-inline-start: 24px;
}
.step {
  padding-inline-start: 4px;
}
.step > :not(.head) {
  margin-block-start: 8px;
}
.head {
  display: flex;
  align-items: center;
}
.head :deep(.el-button + .el-button) {
  margin-inline-start: 0;
}
.gap {
  flex: 1;
}
.common {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 200px;
  gap: 12px;
  font-size: 13px;
  color: var(--w-ink2);
}
.code :deep(input) {
  font-family: var(--w-code);
}
</style>
