<script setup lang="ts">
import { WisteriaProblem, type PublishConsequences, type ScheduleView } from '@wisteria/client'
import { compareWords, fieldAnywhere, type Change, type Piece } from '@wisteria/core'
import { Right } from '@element-plus/icons-vue'
import { ElButton, ElCheckbox, ElIcon } from 'element-plus'
import { computed, ref, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import PageTrouble from '../components/PageTrouble.vue'
import PublishEffects from './PublishEffects.vue'
import StateMark from '../components/StateMark.vue'
import ScheduleTime from '../schedules/ScheduleTime.vue'
import ChangedWords from '../components/ChangedWords.vue'
import { inWords, wordsOf } from './inWords'
import { clock } from '../times'
import { useWorkingCopy } from './workingCopy'
import { messageOf, problemMessage, t } from '../messages'
import LocalePicker from '../components/LocalePicker.vue'

const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{
  done: [result: string]
  scheduled: [schedule: ScheduleView]
  jump: [pointer: string, locale: string | undefined]
}>()
const copy = useWorkingCopy()

const scope = ref<string[]>([])
const consequences = ref<PublishConsequences>()
const trouble = ref<unknown>()
const refused = ref('')
const isWorking = ref(false)
/** Entries that are to be published along. */
const together = ref<string[]>([])
const isScheduling = ref(false)
/** Whether the changes do not matter to translations. */
const isMinor = ref(false)
const locales = computed(() => copy.site.settings.locales)
const isScoped = computed(() => Object.keys(copy.states.value).length > 1)

async function weigh(asked?: readonly string[]): Promise<void> {
  trouble.value = undefined
  consequences.value = undefined
  const id = copy.entry.value!.id
  try {
    const answer = await copy.site.editor.consequences(id, asked, together.value)
    consequences.value = answer
    if (!asked) scope.value = [...answer.locales]
  } catch (error) {
    trouble.value = error
  }
}

watch(open, (now) => {
  if (!now) return
  refused.value = ''
  together.value = []
  isMinor.value = false
  isScheduling.value = false
  void weigh()
})

function retake(id: string, isTaken: boolean): void {
  together.value = isTaken ? [...together.value, id] : together.value.filter((entry) => entry !== id)
  void weigh(scope.value.length > 0 ? scope.value : undefined)
}
function rescope(chosen: readonly string[]): void {
  scope.value = [...chosen]
  if (scope.value.length > 0) void weigh(scope.value)
}

/** A value as it reads in the field that changes. */
const said = ({ fieldId, kind }: Change, value: unknown): string =>
  inWords(value, fieldAnywhere(copy.site.model, fieldId) ?? kind, {
    model: copy.site.model,
    timeZone: copy.site.settings.timeZone,
    names: consequences.value?.names,
  })

/** Running text that changes, word by word; undefined where there was none, or where it is no running text. */
function piecesOf(change: Change): readonly Piece[] | undefined {
  if (fieldAnywhere(copy.site.model, change.fieldId)?.many) return undefined
  const [before, after] = [wordsOf(change.before, change.kind), wordsOf(change.after, change.kind)]
  if (!before || !after) return undefined
  return compareWords(before, after, change.locale ?? copy.site.settings.defaultLocale)
}
/** Texts of a translation that are still to do: said before it is published half translated. */
const toTranslate = (tag: string) => {
  const { missing = 0, outdated = 0, done = 0 } = consequences.value?.translations[tag] ?? {}
  return { n: missing + outdated, all: missing + outdated + done }
}
/** Translations that become outdated with this change. */
const outdates = computed(() => Object.keys(consequences.value?.outdates ?? {}))

/** How many blocking problems a locale has. */
const missingIn = (tag: string): number =>
  consequences.value?.problems.filter(({ locale }) => locale === tag).length ?? 0

const groups = computed(() => {
  const changes = consequences.value?.changes ?? []
  const order = [null, ...locales.value.map((locale) => locale.tag)]
  return order.flatMap((locale) => {
    const inLocale = changes.filter((change) => change.locale === locale)
    return inLocale.length > 0
      ? [
          {
            title:
              locale === null
                ? t('entry.allLocales')
                : (locales.value.find((candidate) => candidate.tag === locale)?.label ?? locale),
            locale,
            changes: inLocale,
          },
        ]
      : []
  })
})

/** Nothing differs, and no chosen locale is new or withdrawn. */
const isSame = computed(
  () =>
    consequences.value !== undefined &&
    consequences.value.changes.length === 0 &&
    scope.value.every((tag) => copy.states.value[tag] === 'public'),
)
const canPublish = computed(
  () =>
    consequences.value !== undefined &&
    consequences.value.problems.length === 0 &&
    consequences.value.together.every(({ problems }) => problems.length === 0) &&
    scope.value.length > 0 &&
    !isSame.value &&
    !trouble.value,
)

async function publish(): Promise<void> {
  isWorking.value = true
  refused.value = ''
  try {
    const { id } = copy.entry.value!
    copy.take(
      await copy.site.editor.publish(id, {
        locales: scope.value,
        version: consequences.value!.version,
        together: together.value,
        ...(isMinor.value ? { minor: true } : {}),
      }),
    )
    await copy.weigh()
    open.value = false
    emit(
      'done',
      t('publishing.publicSince', {
        time: clock(new Date()),
      }),
    )
  } catch (error) {
    refused.value = t('publishing.nothingPublished', { message: messageOf(error) })
    // Somebody saved meanwhile: the sheet is loaded again.
    if (error instanceof WisteriaProblem && error.code === 'stale') {
      await copy.reload()
      await weigh(scope.value)
    }
  } finally {
    isWorking.value = false
  }
}

/** Schedules a publish of the working copy as it is then. */
async function schedule(at: string, zone: string): Promise<void> {
  isWorking.value = true
  refused.value = ''
  try {
    const created = await copy.site.editor.schedule(copy.entry.value!.id, {
      does: 'publish',
      at,
      zone,
      ...(isScoped.value ? { locales: scope.value } : {}),
    })
    open.value = false
    emit('scheduled', created)
  } catch (error) {
    refused.value = t('publishing.nothingScheduled', { message: messageOf(error) })
  } finally {
    isWorking.value = false
  }
}
</script>

<template>
  <ConsequenceSheet
    v-model="open"
    :title="t('publishing.publishNamed', { name: copy.entry.value?.title || t('common.noName') })"
  >
    <PageTrouble
      v-if="trouble"
      :error="trouble"
      :safe="t('publishing.nothingPublishedStop')"
      @again="weigh(scope.length ? scope : undefined)"
    />
    <p v-else-if="!consequences" class="quiet" role="status">{{ t('common.workingOut') }}</p>
    <template v-else>
      <ul v-if="consequences.problems.length > 0" class="obstacles" :aria-label="t('publishing.blocking')">
        <li v-for="problem in consequences.problems" :key="problem.message + problem.pointer">
          <button
            class="plain error-text"
            type="button"
            @click="((open = false), emit('jump', problem.pointer ?? '', problem.locale))"
          >
            <svg viewBox="0 0 14 14" width="14" height="14" aria-hidden="true">
              <path d="M7 1 L13.5 13 H0.5 Z" fill="none" stroke="currentColor" stroke-width="1.5" />
            </svg>
            {{ problemMessage(problem) }}
          </button>
        </li>
      </ul>
      <div class="columns">
        <section :aria-label="t('publishing.changes')">
          <p v-if="isSame" class="content">{{ t('publishing.noDifference') }}</p>
          <template v-for="group in groups" :key="group.title">
            <h3>{{ group.title }}</h3>
            <dl>
              <div v-for="change in group.changes" :key="change.pointer + change.locale">
                <dt>{{ change.label }}</dt>
                <dd v-if="piecesOf(change)" class="words" :lang="group.locale ?? undefined" dir="auto">
                  <ChangedWords :pieces="piecesOf(change)!" />
                </dd>
                <template v-else>
                  <dd class="before" :lang="group.locale ?? undefined" dir="auto">
                    {{ said(change, change.before) }}
                  </dd>
                  <dd class="arrow">
                    <ElIcon :aria-label="t('publishing.becomes')" role="img"><Right /></ElIcon>
                  </dd>
                  <dd class="after" :lang="group.locale ?? undefined" dir="auto">
                    {{ said(change, change.after) }}
                  </dd>
                </template>
              </div>
            </dl>
          </template>
          <ElCheckbox v-if="outdates.length > 0" v-model="isMinor" class="minor">{{
            t('publishing.minor', { locales: outdates.join(', ') })
          }}</ElCheckbox>
          <p v-if="!isSame && groups.length === 0" class="quiet">
            {{ t('publishing.sameWords') }}
          </p>
        </section>
        <PublishEffects :consequences="consequences" :together="together" @retake="retake" />
      </div>
    </template>
    <template #foot>
      <LocalePicker
        v-if="isScoped"
        :model-value="scope"
        :tags="locales.map((locale) => locale.tag)"
        :aria-label="t('publishing.locales')"
        @update:model-value="rescope"
        ><template #mark="{ tag }"><StateMark :state="copy.states.value[tag] ?? 'new'" /></template
        ><template #note="{ tag }"
          ><span v-if="missingIn(tag) > 0" class="error-text note">{{
            t('publishing.missingIn', { n: missingIn(tag) })
          }}</span
          ><span v-else class="quiet note">{{ t(`states.${copy.states.value[tag] ?? 'new'}`) }}</span
          ><span v-if="scope.includes(tag) && toTranslate(tag).n > 0" class="edited-note note">{{
            t('publishing.toTranslate', toTranslate(tag))
          }}</span></template
        ></LocalePicker
      >
      <span class="error-text" role="alert">{{ refused }}</span>
      <span class="gap" />
      <ScheduleTime
        v-if="isScheduling"
        :zone="copy.site.settings.timeZone"
        :verb="t('publishing.schedule')"
        @schedule="schedule"
      />
      <ElButton
        v-if="!isSame && together.length === 0"
        :aria-pressed="isScheduling"
        @click="isScheduling = !isScheduling"
        >{{ isScheduling ? t('publishing.ratherNow') : t('publishing.atATime') }}</ElButton
      >
      <ElButton @click="open = false">{{ t('common.notNow') }}</ElButton>
      <ElButton
        v-if="!isSame && !isScheduling"
        type="primary"
        :disabled="!canPublish"
        :loading="isWorking"
        @click="publish"
        >{{
          together.length > 0
            ? t('publishing.publishAndMore', { locales: scope.join(', '), count: together.length })
            : t('publishing.publishIn', { locales: scope.join(', ') })
        }}</ElButton
      >
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
.obstacles {
  padding: 8px 12px;
  background: var(--w-error-wash);
}
.obstacles li {
  padding: 2px 0;
}
.obstacles button {
  text-decoration: underline;
  text-underline-offset: 3px;
}
dl {
  margin: 0;
}
dl div {
  display: grid;
  grid-template-columns: 148px minmax(0, 1fr) 16px minmax(0, 1fr);
  gap: 12px;
  padding: 6px 0;
  border-block-end: 1px solid var(--w-hair);
}
dt {
  font-size: 13px;
  color: var(--w-ink2);
}
dd {
  margin: 0;
  font: 14px/20px var(--w-content);
  overflow-wrap: anywhere;
  max-block-size: 100px;
  overflow: auto;
}
.before {
  color: var(--w-ink2);
}
[dir='rtl'] .arrow {
  transform: scaleX(-1);
}
.gap {
  flex: 1;
}
.minor {
  block-size: auto;
  margin-block-start: 12px;
  white-space: normal;
}
.words {
  grid-column: 2 / -1;
}
.note {
  font-size: 12px;
}
.edited-note {
  margin-inline-start: 6px;
  color: var(--w-edited);
}
</style>
