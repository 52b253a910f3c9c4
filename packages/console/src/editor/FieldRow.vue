<script setup lang="ts">
import { compareWords, directionOf, holdsLocales, type Field } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, ref, useId } from 'vue'
import ValueListControl from '../controls/ValueListControl.vue'
import { controlOf, isListed } from '../controls/controls'
import ChangedWords from '../components/ChangedWords.vue'
import { inWords, wordsOf } from './inWords'
import { nameOfActor } from '../session'
import { useWorkingCopy } from './workingCopy'
import { problemMessage, t } from '../messages'
import MessageText from '../components/MessageText.vue'
import StateMark from '../components/StateMark.vue'

/** One field on the paper: its label, its control, and its marks and problems in the margin. */
const {
  field,
  container,
  locale,
  pointer,
  insideLocale = false,
  inner = false,
  isRequired = false,
  lockedWhile,
} = defineProps<{
  field: Field
  container: Record<string, unknown>
  /** The locale of the form. */
  locale: string
  /** JSON Pointer of the field, without a locale. */
  pointer: string
  insideLocale?: boolean
  /** Whether it is inside a block or a group. */
  inner?: boolean
  /** Whether it is required to publish now. */
  isRequired?: boolean
  /** The condition that locks it just now. */
  lockedWhile?: string | undefined
}>()

const copy = useWorkingCopy()
const id = useId()
const isLocalized = computed(() => holdsLocales(field, insideLocale))
/** The locale of the value, if it has its own. */
const ownLocale = computed(() => (isLocalized.value ? locale : undefined))
const value = computed(() => copy.read(container, field.name, ownLocale.value))
const fallback = computed(() =>
  isLocalized.value && value.value === undefined ? copy.inherited(container, field.name, locale) : undefined,
)
const spot = computed(() => (isLocalized.value ? `${pointer}/${locale}` : pointer))
/** The source of the translation, which stays visible while writing. */
const source = computed(() => {
  if (!isLocalized.value || field.many || locale === copy.site.settings.defaultLocale) return undefined
  const inherited = copy.inherited(container, field.name, locale)
  const text = inherited && wordsOf(inherited.value, field.kind)
  return text ? { text, from: inherited.from } : undefined
})
/** Whether it contains rows of its own. */
const isList = computed(() => isListed(field.kind, field.many))
const hasInside = computed(() => field.kind === 'block' || field.kind === 'group')
const problems = computed(() =>
  copy.problems.value.filter(
    (problem) => problem.pointer === spot.value || (!hasInside.value && problem.pointer?.startsWith(spot.value + '/')),
  ),
)
const here = computed(() => copy.others.value.filter((other) => other.at === spot.value))
const change = computed(() => copy.changes.value.find((candidate) => candidate.pointer === spot.value))
const isShown = ref(false)
const isNaming = computed(() => !inner && copy.type.namedBy === field.name)
const isInLocale = computed(() => isLocalized.value || insideLocale)
/** The language that the value is written in. */
const language = computed(() => (isInLocale.value ? locale : copy.site.settings.defaultLocale))
const direction = computed(() =>
  directionOf(value.value === undefined && fallback.value ? fallback.value.from : language.value),
)
const mayWrite = computed(() => lockedWhile === undefined && copy.mayWrite(isInLocale.value ? locale : undefined))
/** Whether the user may write, but not here: the form says so, since the reason is not visible. */
const isOthers = computed(
  () => !mayWrite.value && lockedWhile === undefined && !hasInside.value && copy.mayWriteAny.value,
)
/** Without its slug an entry has the path of its parent: only types with parents mean that. */
const mayBeEmpty = computed(
  () => mayWrite.value && !isRequired && (field.kind !== 'slug' || copy.type.parent !== undefined),
)
/** The field that the slug is made from, if any. */
const slugSource = computed(() => copy.type.fields.find(({ name }) => name === field.options['from'])?.label)
const isEmptyOnPurpose = computed(() => value.value === null)

function write(next: unknown): void {
  copy.write(container, field.name, ownLocale.value, next)
}

/** The public value against the value here, word by word; undefined where the kind is not running text. */
const words = computed(() => {
  if (!change.value || field.many) return undefined
  const [before, now] = [change.value.before, value.value].map((content) => wordsOf(content, field.kind))
  return before === undefined || now === undefined ? undefined : compareWords(before, now, language.value)
})

async function copyName(): Promise<void> {
  await navigator.clipboard?.writeText(field.name).catch(() => undefined)
}
</script>

<template>
  <div :id="`field${spot.replaceAll('/', '-')}`" :data-pointer="spot" class="field" :class="{ inner, changed: change }">
    <div class="head">
      <label :for="id"
        >{{ field.label }}<span v-if="isRequired" class="quiet" :title="t('entry.neededToPublish')"> *</span></label
      >
      <button
        v-if="change"
        class="plain edited-mark"
        type="button"
        :aria-expanded="isShown"
        :aria-label="t('entry.differs', { field: field.label })"
        @click="isShown = !isShown"
      >
        <StateMark state="edited" /> {{ t('states.edited') }}
      </button>
      <button
        class="plain name"
        tabindex="-1"
        type="button"
        :title="t('entry.copyName', { name: field.name })"
        @click="copyName"
      >
        <code>{{ field.name }}</code>
      </button>
      <span v-for="person in here" :key="person.actor" class="here">{{
        t('entry.isHere', { name: nameOfActor(copy.site, person.actor) })
      }}</span>
      <span class="scope">{{
        isLocalized ? '' : insideLocale || inner || hasInside ? '' : t('entry.allLocales')
      }}</span>
    </div>
    <p v-if="source && value !== undefined" class="source" :lang="source.from" :dir="directionOf(source.from)">
      <bdi class="tag" dir="ltr">{{ source.from }}</bdi> {{ source.text }}
    </p>
    <component
      :is="isList ? ValueListControl : controlOf(field.kind)"
      :id="id"
      :key="isInLocale ? locale : ''"
      :field="field"
      :value="isEmptyOnPurpose ? undefined : value"
      :fallback="fallback?.value"
      :locale="language"
      :form-locale="locale"
      :direction="direction"
      :is-naming="isNaming"
      :disabled="!mayWrite"
      :pointer="spot"
      :inside-locale="isInLocale"
      :fault="isList ? undefined : copy.unreadable.at(spot, '')"
      @change="write"
      @unreadable="copy.unreadable.hold(spot, '', $event)"
    >
      <template #value="{ change: put, part, ...one }">
        <component
          :is="controlOf(field.kind)"
          v-bind="one"
          :fault="copy.unreadable.at(`${spot}${part}`, 'item')"
          :locale="language"
          :form-locale="locale"
          :direction="direction"
          :disabled="!mayWrite"
          @change="put"
          @unreadable="copy.unreadable.hold(`${spot}${part}`, 'item', $event)"
        />
      </template>
      <template #inside="one"><slot name="inside" v-bind="one" :inside-locale="isInLocale" /></template>
    </component>
    <p v-if="lockedWhile !== undefined" class="note">
      <MessageText of="entry.lockedWhile"
        ><template #condition
          ><code dir="ltr">{{ lockedWhile }}</code></template
        ></MessageText
      >
    </p>
    <p v-else-if="isOthers" class="note others">
      {{ isInLocale ? t('entry.notYourLocale', { locale }) : t('entry.notShared') }}
    </p>
    <p v-if="fallback && !hasInside" class="note">
      {{ t('entry.fromLocale', { locale: fallback.from }) }}
      <button v-if="mayBeEmpty" class="plain link" type="button" @click="write(null)">
        {{ t('entry.leaveEmpty', { locale }) }}
      </button>
    </p>
    <p v-else-if="isEmptyOnPurpose" class="note">
      {{ t('entry.emptyOnPurpose') }}
      <button v-if="mayWrite" class="plain link" type="button" @click="write(undefined)">{{ t('common.undo') }}</button>
    </p>
    <p v-else-if="field.kind === 'slug' && value === undefined && mayWrite" class="note">
      <span v-if="slugSource">{{ t('entry.slugFrom', { source: slugSource }) }}</span>
      <button v-if="mayBeEmpty" class="plain link" type="button" @click="write(null)">{{ t('entry.noPath') }}</button>
    </p>
    <p v-if="field.help" class="note">{{ field.help }}</p>
    <div v-if="isShown && change" class="public">
      <p class="quiet">{{ words ? t('entry.fromPublic') : t('entry.publicNow') }}</p>
      <p class="content" dir="auto">
        <ChangedWords v-if="words" :pieces="words" /><template v-else>{{
          inWords(change.before, field, {
            model: copy.site.model,
            timeZone: copy.site.settings.timeZone,
            names: copy.check.value?.names,
          })
        }}</template>
      </p>
      <ElButton v-if="mayWrite && !field.many" size="small" @click="write(change.before ?? undefined)">{{
        t('entry.revert')
      }}</ElButton>
    </div>
    <aside v-if="problems.length > 0" class="margin" :aria-label="t('entry.about', { field: field.label })">
      <p v-for="problem in problems" :key="problem.message" class="error-text">
        <svg viewBox="0 0 14 14" width="14" height="14" aria-hidden="true">
          <path d="M7 1 L13.5 13 H0.5 Z" fill="none" stroke="currentColor" stroke-width="1.5" />
        </svg>
        {{ problemMessage(problem) }}
      </p>
    </aside>
  </div>
</template>

<style scoped>
.field {
  position: relative;
  margin-block-end: 24px;
}
.field.inner {
  margin-block-end: 12px;
}
.head {
  display: flex;
  align-items: baseline;
  gap: 8px;
  min-block-size: 20px;
  font-size: 13px;
  line-height: 20px;
  color: var(--w-ink2);
}
.name {
  opacity: 0;
  color: var(--w-ink3);
}
.field:hover > .head .name,
.name:focus-visible {
  opacity: 1;
}
.here {
  padding-inline: 6px;
  border-radius: 2px;
  background: var(--w-accent-wash);
  color: var(--w-accent-press);
  font-size: 12px;
}
.scope {
  margin-inline-start: auto;
  font-size: 12px;
  color: var(--w-ink3);
}
.edited-mark {
  font-size: 12px;
  color: var(--w-edited);
}
.edited-mark:hover {
  text-decoration: underline;
}
.source {
  margin: 0 0 4px;
  max-block-size: 112px;
  overflow: auto;
  font: 15px/22px var(--w-content);
  white-space: pre-line;
  color: var(--w-ink2);
}
.source .tag {
  margin-inline-end: 6px;
  font: 12px/16px var(--w-interface);
  color: var(--w-ink3);
}
.others {
  color: var(--w-ink3);
}
.note {
  margin: 4px 0 0;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
.link {
  color: var(--w-accent);
  text-decoration: underline;
}
.public {
  margin-block-start: 8px;
  padding: 8px 12px;
  background: var(--w-edited-wash);
}
.public p {
  margin: 0 0 4px;
}
.margin {
  position: absolute;
  inset-block-start: 0;
  inset-inline-start: calc(100% + 64px);
  inline-size: 272px;
}
.inner .margin {
  inset-inline-start: calc(100% + 64px);
}
.margin p {
  margin: 0 0 8px;
  font-size: 13px;
}
.with-preview .margin {
  position: static;
  inline-size: auto;
}
</style>
