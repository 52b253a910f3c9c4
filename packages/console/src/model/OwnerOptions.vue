<script setup lang="ts">
import { labelFrom, type SectionSource, type TypeSource } from '@wisteria/core'
import { ElButton, ElCheckbox, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import CheckRules from './CheckRules.vue'
import { nameFrom, nameOf, type DraftFile, type ModelDraft } from './modelDraft'
import { problemMessage, t } from '../messages'

/** The options of a type or block type: names, number of entries, places, sections. */
const { draft, held, disabled } = defineProps<{ draft: ModelDraft; held: DraftFile; disabled: boolean }>()
const emit = defineEmits<{ removed: [] }>()
const type = computed(() => ('type' in held.source ? (held.source as TypeSource) : undefined))
const texts = computed(() =>
  Object.entries(held.source.fields)
    .filter(([, field]) => field.kind === 'text' && !field.many)
    .map(([name]) => name),
)
const parents = computed(() =>
  Object.entries(held.source.fields)
    .filter(([, field]) => field.kind === 'entry' && !field.many)
    .map(([name]) => name),
)
const numbers = computed(() => namesOf('number'))
const booleans = computed(() => namesOf('boolean'))
const namesOf = (kind: string): string[] =>
  Object.entries(held.source.fields)
    .filter(([, field]) => field.kind === kind && !field.many && !field.localized)
    .map(([name]) => name)
const problems = computed(() => draft.problemsOf(held).filter((problem) => !problem.pointer?.startsWith('/fields/')))
const newSection = ref('')

function set(option: string, value: unknown): void {
  const source = held.source as Record<string, unknown>
  if (value === undefined || value === '') delete source[option]
  else source[option] = value
}
function setPath(locale: string, pattern: string): void {
  const patterns = Object.fromEntries(
    Object.entries({ ...type.value?.path, [locale]: pattern.trim() }).filter(([, text]) => text !== ''),
  )
  set('path', Object.keys(patterns).length > 0 ? patterns : undefined)
}
function setSection(name: string, option: keyof SectionSource, value: unknown): void {
  const section: Record<string, unknown> = { ...held.source.sections?.[name] }
  if (value === undefined || value === '' || value === false) delete section[option]
  else section[option] = value
  draft.setSection(held.source, name, section)
}
function addSection(): void {
  const name = nameFrom(newSection.value)
  if (name === '' || held.source.sections?.[name]) return
  draft.setSection(held.source, name, { label: newSection.value.trim() })
  newSection.value = ''
}
const sectionProblem = (name: string): string | undefined =>
  draft.problemsOf(held).find((problem) => problem.pointer?.startsWith(`/sections/${name}/`))?.message
</script>

<template>
  <div class="owner">
    <p v-for="problem in problems" :key="problem.message" class="error-text">{{ problemMessage(problem) }}</p>
    <div class="two">
      <div>
        <label for="owner-label">{{ t('model.label') }}</label><ElInput
          id="owner-label"
          :model-value="held.source.label ?? labelFrom(nameOf(held.source))"
          :disabled="disabled"
          @input="set('label', $event)"
        />
      </div>
      <div>
        <label for="owner-icon">{{ t('model.icon') }}</label><ElInput
          id="owner-icon"
          :model-value="held.source.icon ?? ''"
          maxlength="8"
          :placeholder="t('model.iconPlaceholder')"
          :disabled="disabled"
          @input="set('icon', $event)"
        />
      </div>
    </div>
    <label for="owner-help">{{ t('model.help') }}</label>
    <ElInput
      id="owner-help"
      type="textarea"
      autosize
      :model-value="held.source.help ?? ''"
      :disabled="disabled"
      @input="set('help', $event)"
    />
    <template v-if="type">
      <div class="two">
        <div>
          <label for="owner-cardinality">{{ t('model.entries') }}</label>
          <ElSelect
            id="owner-cardinality"
            :model-value="type.cardinality ?? 'many'"
            :disabled="disabled"
            @update:model-value="set('cardinality', $event === 'one' ? 'one' : undefined)"
          >
            <ElOption value="many" :label="t('model.asManyAsThereAre')" />
            <ElOption value="one" :label="t('model.exactlyOne')" />
          </ElSelect>
        </div>
        <div>
          <label for="owner-named">{{ t('model.namedBy') }}</label>
          <ElSelect
            id="owner-named"
            :model-value="type.namedBy ?? texts[0] ?? ''"
            :disabled="disabled"
            @update:model-value="set('namedBy', $event)"
            ><ElOption v-for="name in texts" :key="name" :value="name" :label="name"
          /></ElSelect>
        </div>
      </div>
      <fieldset>
        <legend>{{ t('model.pathByLocale') }}</legend>
        <div v-for="locale in draft.site.settings.locales" :key="locale.tag" class="path">
          <label :for="`path-${locale.tag}`"
            ><code>{{ locale.tag }}</code></label
          >
          <ElInput
            :id="`path-${locale.tag}`"
            class="code"
            dir="ltr"
            :model-value="type.path?.[locale.tag] ?? ''"
            placeholder="/trips/{slug}"
            :disabled="disabled"
            @input="setPath(locale.tag, String($event))"
          />
        </div>
        <label for="owner-parent">{{ t('model.standsUnder') }}</label>
        <ElSelect
          id="owner-parent"
          clearable
          :model-value="type.parent ?? ''"
          :placeholder="t('model.nothing')"
          :disabled="disabled"
          @update:model-value="set('parent', $event)"
          ><ElOption v-for="name in parents" :key="name" :value="name" :label="name"
        /></ElSelect>
        <template v-if="type.parent">
          <ElCheckbox
            :model-value="type.root === false"
            :disabled="disabled"
            @update:model-value="set('root', $event ? false : undefined)"
            >{{ t('model.neverAtRoot') }}</ElCheckbox
          >
          <div class="two">
            <div>
              <label for="owner-order">{{ t('model.orderedBy') }}</label>
              <ElSelect
                id="owner-order"
                clearable
                :model-value="type.order ?? ''"
                placeholder="name"
                :disabled="disabled"
                @update:model-value="set('order', $event)"
                ><ElOption v-for="name in numbers" :key="name" :value="name" :label="name"
              /></ElSelect>
            </div>
            <div>
              <label for="owner-menu">{{ t('model.inMenusIf') }}</label>
              <ElSelect
                id="owner-menu"
                clearable
                :model-value="type.menu ?? ''"
                :placeholder="t('model.notSet')"
                :disabled="disabled"
                @update:model-value="set('menu', $event)"
                ><ElOption v-for="name in booleans" :key="name" :value="name" :label="name"
              /></ElSelect>
            </div>
          </div>
        </template>
      </fieldset>
      <ElCheckbox
        :model-value="type.drafts === false"
        :disabled="disabled"
        @update:model-value="set('drafts', $event ? false : undefined)"
        >{{ t('model.withoutDrafts') }}</ElCheckbox
      >
      <ElCheckbox
        v-if="type.cardinality !== 'one'"
        :model-value="type.regional === true"
        :disabled="disabled"
        @update:model-value="set('regional', $event ? true : undefined)"
        >{{ t('regions.regional') }}</ElCheckbox
      >
    </template>
    <fieldset>
      <CheckRules :value="held.source.check" :disabled="disabled" @change="set('check', $event)" />
    </fieldset>
    <fieldset>
      <legend>{{ t('model.sections') }}</legend>
      <div v-for="(section, name) in held.source.sections" :key="name" class="section">
        <span class="two">
          <ElInput
            :model-value="section.label ?? labelFrom(String(name))"
            :aria-label="t('model.labelOfSection', { name })"
            :disabled="disabled"
            @input="setSection(String(name), 'label', $event)"
          />
          <ElButton size="small" :disabled="disabled" @click="draft.setSection(held.source, String(name), undefined)">{{
            t('common.remove')
          }}</ElButton>
        </span>
        <ElInput
          class="code"
          :model-value="section.showIf ?? ''"
          :placeholder="t('model.showIfPlaceholder')"
          :aria-label="t('model.showSectionIf', { name })"
          :disabled="disabled"
          @input="setSection(String(name), 'showIf', $event)"
        />
        <ElCheckbox
          :model-value="section.collapsed ?? false"
          :disabled="disabled"
          @update:model-value="setSection(String(name), 'collapsed', $event)"
          >{{ t('model.foldedAtFirst') }}</ElCheckbox
        >
        <p v-if="sectionProblem(String(name))" class="error-text">{{ sectionProblem(String(name)) }}</p>
      </div>
      <form v-if="!disabled" class="two" @submit.prevent="addSection">
        <ElInput v-model="newSection" :placeholder="t('model.newSection')" :aria-label="t('model.labelOfNewSection')" />
        <ElButton native-type="submit" :disabled="newSection.trim() === ''">{{ t('model.addSection') }}</ElButton>
      </form>
    </fieldset>
    <p v-if="!disabled">
      <ElButton @click="(draft.remove(held), emit('removed'))">{{
        type ? t('model.removeType') : t('model.removeBlockType')
      }}</ElButton>
    </p>
  </div>
</template>

<style scoped>
label,
legend {
  display: block;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 8px;
  margin-block-end: 8px;
}
div.two {
  grid-template-columns: 1fr 1fr;
}
fieldset {
  margin: 16px 0 0;
  padding: 8px 0 0;
  border: 0;
  border-block-start: 1px solid var(--w-hair);
}
.path {
  display: grid;
  grid-template-columns: 48px minmax(0, 1fr);
  align-items: center;
  margin-block-end: 4px;
}
.section {
  margin-block-end: 12px;
}
.code :deep(input) {
  font: 13px/20px var(--w-code);
}
</style>
