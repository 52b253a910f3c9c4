<script setup lang="ts">
import { ArrowDown } from '@element-plus/icons-vue'
import { ElIcon } from 'element-plus'
import {
  chainOf,
  hasContent,
  namedReader,
  fieldRuleState,
  ruleHolds,
  summaryOf,
  type Field,
  type FieldOwner,
  type FieldRuleState,
  type Section,
} from '@wisteria/core'
import { computed, reactive, watch } from 'vue'
import FieldRow from './FieldRow.vue'
import { useWorkingCopy } from './workingCopy'
import MessageText from '../components/MessageText.vue'
import { t } from '../messages'

/** The fields of an entry, a block or a group, in their sections: those that are shown, and a line about hidden values. */
const {
  owner,
  container,
  locale,
  pointer,
  insideLocale = false,
  inner = false,
} = defineProps<{
  owner: FieldOwner
  container: Record<string, unknown>
  /** Whose values are shown and written; another form beside it may be in another locale. */
  locale: string
  /** JSON Pointer of the values. */
  pointer: string
  insideLocale?: boolean
  inner?: boolean
}>()
const copy = useWorkingCopy()

interface Line {
  readonly field: Field
  readonly ruling: FieldRuleState
}
interface Part {
  readonly section: Section | undefined
  readonly lines: Line[]
  readonly isShown: boolean
  /** Names of fields that keep a value while they do not apply. */
  readonly kept: readonly string[]
}

const read = computed(() => namedReader(chainOf(copy.site.settings, locale), insideLocale))
const state = (field: Field) =>
  field.localized || insideLocale ? (copy.states.value[locale] ?? 'new') : summaryOf(copy.states.value)
const holdsSomething = (field: Field): boolean => hasContent(container[field.name])

/** A section is where its first field is. */
const parts = computed<Part[]>(() => {
  const results: { section: Section | undefined; fields: Field[] }[] = []
  for (const field of owner.fields) {
    const section = owner.sections?.find((candidate) => candidate.name === field.section)
    const existing = section
      ? results.find((part) => part.section === section)
      : results.at(-1)?.section === undefined
        ? results.at(-1)
        : undefined
    if (existing) existing.fields.push(field)
    else results.push({ section, fields: [field] })
  }
  return results.map(({ section, fields }) => {
    const lines = fields.map((field) => ({
      field,
      ruling: fieldRuleState(copy.site.model, owner, field, container, read.value, state(field)),
    }))
    const isShown =
      section?.showIf === undefined || ruleHolds(copy.site.model, owner, section.showIf, container, read.value)
    return {
      section,
      lines,
      isShown,
      kept: lines
        .filter(({ field, ruling }) => !ruling.isShown && holdsSomething(field))
        .map(({ field }) => field.label),
    }
  })
})

const folded = reactive(new Map<string, boolean>())
/** Folded by the model, or by the user. */
const isFolded = ({ name, collapsed }: Section): boolean => folded.get(name) ?? collapsed
function toggle(section: Section, body: HTMLElement | null | undefined): void {
  // A section with the focus in it does not fold.
  if (!isFolded(section) && body?.contains(document.activeElement)) return
  folded.set(section.name, !isFolded(section))
}
/** A new problem, or a link to one, opens its section; only a click folds it again. */
watch(
  () => [copy.reveal.value, ...copy.problems.value.map((problem) => problem.pointer ?? '')],
  (now, before) => {
    const news = now.filter((opened, index) => (index === 0 ? opened !== before?.[0] : !before?.includes(opened)))
    for (const { name, section } of owner.fields)
      if (section && news.some((opened) => opened === `${pointer}/${name}` || opened.startsWith(`${pointer}/${name}/`)))
        folded.set(section, false)
  },
  { immediate: true },
)
const lockOf = (field: Field): string | undefined =>
  field.lockIf ?? owner.sections?.find((section) => section.name === field.section)?.lockIf
const hiddenBecause = (part: Part): string =>
  part.isShown
    ? (part.lines.flatMap(({ field, ruling }) =>
        !ruling.isShown && holdsSomething(field) ? (field.showIf ?? []) : [],
      )[0] ?? '')
    : (part.section?.showIf ?? '')
</script>

<template>
  <template v-for="(part, index) in parts" :key="part.section?.name ?? index">
    <component :is="part.section ? 'section' : 'div'" v-if="part.isShown" :class="{ section: part.section, inner }">
      <h2 v-if="part.section">
        <button
          class="plain"
          type="button"
          :aria-expanded="!isFolded(part.section)"
          @click="
            toggle(part.section, ($event.currentTarget as HTMLElement).closest('section')?.querySelector('.body'))
          "
        >
          <ElIcon class="sign" :class="{ folded: isFolded(part.section) }" aria-hidden="true"><ArrowDown /></ElIcon>
          {{ part.section.label }}
          <span v-if="isFolded(part.section)" class="quiet count">{{
            t('entry.fieldCount', { n: part.lines.filter(({ ruling }) => ruling.isShown).length })
          }}</span>
        </button>
      </h2>
      <div v-show="!part.section || !isFolded(part.section)" class="body">
        <p v-if="part.section?.help" class="help">{{ part.section.help }}</p>
        <FieldRow
          v-for="{ field, ruling } in part.lines.filter((line) => line.ruling.isShown)"
          :key="field.id"
          :field="field"
          :container="container"
          :locale="locale"
          :pointer="`${pointer}/${field.name}`"
          :inside-locale="insideLocale"
          :inner="inner"
          :is-required="ruling.isRequired"
          :locked-while="ruling.isLocked ? lockOf(field) : undefined"
        >
          <template #inside="one"><FieldSet v-bind="one" :locale="locale" inner /></template>
        </FieldRow>
      </div>
    </component>
    <p v-if="part.kept.length > 0" class="kept">
      <MessageText of="entry.keptHidden"
        ><template #fields>{{ part.kept.join(', ') }}</template
        ><template #condition
          ><code dir="ltr">{{ hiddenBecause(part) }}</code></template
        ></MessageText
      >
    </p>
  </template>
</template>

<style scoped>
.section {
  margin-block: 8px 24px;
  padding-block-start: 12px;
  border-block-start: 1px solid var(--w-hair);
}
.section.inner {
  margin-block-end: 12px;
}
h2 {
  margin-block-end: 12px;
  font-size: 14px;
  line-height: 20px;
}
.sign {
  display: inline-block;
  color: var(--w-ink3);
}
.sign.folded {
  transform: rotate(-90deg);
}
[dir='rtl'] .sign.folded {
  transform: rotate(90deg);
}
.count {
  font-weight: 400;
  font-size: 12px;
}
.help,
.kept {
  margin: -4px 0 16px;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
.kept {
  padding: 8px 12px;
  background: var(--w-sunk);
}
</style>
