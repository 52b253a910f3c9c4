<script setup lang="ts">
import {
  draftFrom,
  localeTags,
  partsOfStart,
  startsBy,
  withPart,
  type AutomationPart,
  type AutomationPlace,
} from '@wisteria/core'
import { ElOption, ElSelect } from 'element-plus'
import { computed, onMounted, ref } from 'vue'
import LateInput from '../components/LateInput.vue'
import { t } from '../messages'
import type { Site } from '../session'
import PartField from './PartField.vue'
import StepList from './StepList.vue'

/** An automation as a form. Its file is the same thing: the form changes what it shows, and leaves the rest as it is. */
const { site } = defineProps<{ site: Site }>()
const text = defineModel<string>({ required: true })

type Draft = Readonly<Record<string, unknown>>
const draft = computed(() => draftFrom(text.value))
const recordOf = (value: unknown): Draft => (typeof value === 'object' && value !== null ? (value as Draft) : {})
const starts = computed(() => recordOf(draft.value?.starts))
const by = computed(() => startsBy.find((way) => way === starts.value['by']))
const rights = computed(() => recordOf(draft.value?.rights))
const connectors = ref<readonly string[]>([])
onMounted(async () => {
  const { connectors: all } = await site.editor.ordering.connectors().catch(() => ({ connectors: [] }))
  connectors.value = all.map(({ label }) => label)
})

const set = (place: AutomationPlace, value: unknown): void => void (text.value = withPart(text.value, place, value))
const written = (place: AutomationPlace, value: string): void => set(place, value.trim() === '' ? undefined : value)
const heads = ['label', 'automation', 'description'] as const
const rightParts = computed((): readonly AutomationPart[] => [
  { name: 'publish', is: 'flag', isRequired: false, says: '', options: [] },
  { name: 'types', is: 'types', isRequired: false, says: '', options: [] },
  ...(localeTags(site.settings).length > 1
    ? [{ name: 'locales', is: 'locales', isRequired: false, says: '', options: [] } as const]
    : []),
])
</script>

<template>
  <p v-if="!draft" class="error-text">{{ t('automations.noForm') }}</p>
  <div v-else class="form">
    <template v-for="name in heads" :key="name">
      <label :for="`automation-${name}`">{{ t(`automations.heads.${name}`) }}</label>
      <LateInput :id="`automation-${name}`" :value="String(draft[name] ?? '')" @change="written([name], $event)" />
    </template>
    <h2>{{ t('automations.startedBy') }}</h2>
    <ElSelect
      :model-value="by ?? ''"
      :aria-label="t('automations.startedBy')"
      @update:model-value="set(['starts'], { by: $event })"
    >
      <ElOption v-for="way in startsBy" :key="way" :value="way" :label="t(`automations.ways.${way}`)" />
    </ElSelect>
    <template v-if="by">
      <PartField
        v-for="part in partsOfStart(by)"
        :key="part.name"
        :site="site"
        :part="part"
        :value="starts[part.name]"
        :around="starts"
        :connectors="connectors"
        @change="set(['starts', part.name], $event)"
      />
    </template>
    <h2>{{ t('automations.rights') }}</h2>
    <PartField
      v-for="part in rightParts"
      :key="part.name"
      :site="site"
      :part="part"
      :value="rights[part.name]"
      :around="rights"
      :connectors="connectors"
      @change="set(['rights', part.name], $event)"
    />
    <h2>{{ t('automations.steps') }}</h2>
    <div>
      <StepList v-model="text" :site="site" :steps="draft.steps" :place="['steps']" :connectors="connectors" />
    </div>
  </div>
</template>

<style scoped>
.form {
  display: grid;
  gap: 8px;
  max-inline-size: 720px;
  margin-block: 12px;
}
h2 {
  margin-block: 16px 0;
}
label {
  font-size: 13px;
  color: var(--w-ink2);
}
</style>
