<script setup lang="ts">
import type { EditableEntry, ScheduleView } from '@wisteria/client'
import type { ContentType } from '@wisteria/core'
import { decide } from '@wisteria/core'
import { RefreshLeft, RefreshRight } from '@element-plus/icons-vue'
import { ElButton, ElDropdown, ElDropdownItem, ElDropdownMenu, ElIcon } from 'element-plus'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { onBeforeRouteLeave, useRoute, useRouter, type HistoryState } from 'vue-router'
import EntryLink from '../components/EntryLink.vue'
import KindLine from '../counterparts/KindLine.vue'
import StripBar from '../components/StripBar.vue'
import { presentPeople } from '../presentPeople'
import { nameOfActor, type Site } from '../session'
import { ago, moment } from '../times'
import FieldSet from './FieldSet.vue'
import { fieldElement, focusField } from './focusField'
import RemovalSheet from './RemovalSheet.vue'
import { useEntrySaving } from './entrySaving'
import OutlinePanel from './OutlinePanel.vue'
import StartItems from '../automations/StartItems.vue'
import ConflictSheet from './ConflictSheet.vue'
import PreviewFrame from './PreviewFrame.vue'
import PublicSituation from './PublicSituation.vue'
import { usePresence } from './presence'
import { useSchedules } from '../schedules/schedules'
import { useShortcuts } from '../shortcuts'
import { createUndo } from './undo'
import PublishSheet from './PublishSheet.vue'
import { createWorkingCopy, provideWorkingCopy } from './workingCopy'
import { messageOf, t } from '../messages'

const { site, type, entry } = defineProps<{ site: Site; type: ContentType; entry: EditableEntry | undefined }>()
const route = useRoute()
const router = useRouter()
/** The parent of a new page, from the address. */
const parent = route.query['parent']
const initial = type.parent && typeof parent === 'string' ? { [type.parent]: parent } : {}
/** The region of that parent. */
const region = route.query['region']
const copy = createWorkingCopy(site, type, entry, initial, typeof region === 'string' ? region : undefined)
provideWorkingCopy(copy)

const asked = route.query['locale']
/** The title of its original, when it has just been duplicated. */
const { duplicateOf } = history.state as { duplicateOf?: { readonly id: string; readonly title: string } }
/** The locale that the form shows; it is in the address, so that it stays on reload. */
const locale = ref(site.settings.locales.find(({ tag }) => tag === asked)?.tag ?? site.settings.defaultLocale)

watch(locale, (now) => router.replace({ query: { ...route.query, locale: now }, state: history.state as HistoryState }))

const isSheetOpen = ref(false)
const isGoingOpen = ref(false)
/** The action of the sheet, once it was opened. */
const going = ref<'withdraw' | 'archive' | 'delete'>()
const isConflictOpen = ref(false)
const isPreviewOpen = ref(false)
const problemIndex = ref(-1)
/** The entry as what rights are about; a new one is in whatever region is chosen. */
const whole = { type: type.name, region: type.regional ? (entry?.region ?? undefined) : null, shared: true }
const { shared: _, ...part } = whole
const mayPublish = decide(site.caller, 'entry.publish', part).allowed
/** Whether the user may archive, delete or duplicate the entry. */
const mayWrite = decide(site.caller, 'entry.write', whole).allowed && type.cardinality === 'many'
const mayArchive = decide(site.caller, 'entry.publish', whole).allowed
const maySave = decide(site.caller, 'entry.translate', part).allowed
/** Without drafts there is one button: a save publishes. */
const isImmediate = type.drafts === false
const undo = createUndo(copy)
const {
  state: saveState,
  isSaving,
  result,
  failure,
  conflict,
  recalled,
  save,
  ensureSaved,
  discard,
  choose,
  forget,
} = useEntrySaving(
  copy,
  { maySave, savePublishes: isImmediate, onTaken: undo.rebase, onAsked: () => (isConflictOpen.value = true) },
  () =>
    router.replace({
      name: 'entry',
      params: { site: site.name, id: copy.entry.value!.id },
      query: route.query,
      state: { isPublishing },
    }),
)

const { others, tell } = usePresence(
  copy,
  () => !isSaving.value && !isSheetOpen.value && !isGoingOpen.value,
  (actor) => {
    undo.rebase()
    result.value = t('entry.updatedWith', { name: nameOfActor(site, actor) })
  },
)
watch(
  others,
  (now) => {
    copy.others.value = now
    presentPeople.value = now.map(({ actor }) => ({ actor, name: nameOfActor(site, actor) }))
  },
  { immediate: true },
)
onBeforeUnmount(() => (presentPeople.value = []))
watch(conflict, (now) => now || (isConflictOpen.value = false))

const {
  schedules,
  read: readSchedules,
  cancelSchedule,
} = useSchedules(
  copy,
  (text) => (result.value = text),
  (text) => (failure.value = text),
)
function scheduled(schedule: ScheduleView): void {
  void readSchedules()
  result.value = t('entry.scheduledFor', { moment: moment(schedule.at, schedule.zone) })
}

const isArchived = computed(() => copy.entry.value?.state === 'archived')
async function reactivate(): Promise<void> {
  try {
    copy.take(await site.editor.reactivate(copy.entry.value!.id))
    await copy.weigh()
    result.value = t('entry.reactivated')
  } catch (error) {
    failure.value = messageOf(error)
  }
}

/** Saving is publishing where a type has no drafts. */
async function saveAndPublish(): Promise<void> {
  if (await save()) result.value = t('entry.savedAndPublic')
}

/** Whether a save comes before the sheet: the page of a new entry opens the sheet then. */
let isPublishing = false
async function openSheet(): Promise<void> {
  if (isImmediate) return saveAndPublish()
  isPublishing = true
  if (await ensureSaved()) isSheetOpen.value = true
  isPublishing = false
}
onMounted(async () => {
  const { isPublishing: wasPublishing, ...state } = history.state as { isPublishing?: boolean }
  if (!wasPublishing) return
  history.replaceState(state, '')
  await nextTick()
  await openSheet()
})

const isPublic = computed(() => copy.isPublic(null))
async function published(text: string): Promise<void> {
  result.value = text
  void tell()
  await readSchedules()
}

async function openGoing(how: 'withdraw' | 'archive' | 'delete'): Promise<void> {
  if (!(await ensureSaved())) return
  going.value = how
  isGoingOpen.value = true
}

async function duplicate(): Promise<void> {
  if (!(await ensureSaved())) return
  try {
    const { id: original, title } = copy.entry.value!
    const { id } = await site.editor.duplicate(original)
    const state = { duplicateOf: { id: original, title } }
    await router.push({ name: 'entry', params: { site: site.name, id }, state })
  } catch (error) {
    failure.value = t('entry.nothingDuplicated', { message: messageOf(error) })
  }
}

async function leaveDeleted(): Promise<void> {
  forget()
  const { id, title } = copy.entry.value!
  const state = { deleted: { id, title } }
  await router.push({ name: 'entries', params: { site: site.name, type: type.name }, state })
}

async function jump(pointer: string, inLocale: string | undefined): Promise<void> {
  if (inLocale) locale.value = inLocale
  // A second click opens it again.
  copy.reveal.value = ''
  await nextTick()
  copy.reveal.value = pointer
  await nextTick()
  const target = fieldElement(pointer)
  if (target) focusField(target)
}

function nextProblem(): void {
  const all = copy.problems.value
  if (all.length === 0) return
  problemIndex.value = (problemIndex.value + 1) % all.length
  const problem = all[problemIndex.value]!
  void jump(problem.pointer ?? '', problem.locale)
}

/** The editor of rich text has an undo of its own, letter by letter. */
const isInRichText = (): boolean => document.activeElement?.closest('.ProseMirror') !== null

const redo = (): boolean => !isInRichText() && undo.redo()
useShortcuts({
  'mod+s': () => void (maySave && save()),
  'mod+enter': () => !isSheetOpen.value && !isGoingOpen.value && mayPublish && openSheet(),
  'mod+z': () => !isInRichText() && undo.undo(),
  'mod+shift+z': redo,
  'mod+y': redo,
  f8: nextProblem,
})
onMounted(() => {
  void copy.weigh()
  void readSchedules()
})
// Unsaved changes are saved on leaving the page.
onBeforeRouteLeave(async () => (copy.entry.value && copy.isChanged.value && maySave && !isImmediate ? save() : true))
</script>

<template>
  <main class="desk" :class="{ 'with-preview': isPreviewOpen }" data-region="work">
    <OutlinePanel v-if="!isPreviewOpen" :locale="locale" />
    <div v-else class="folded" />
    <div class="scroll">
      <article class="paper" :class="{ 'with-preview': isPreviewOpen }">
        <h1 class="visually-hidden" dir="auto">
          {{ copy.entry.value?.title || t('entry.newOf', { type: type.label }) }}
        </h1>
        <KindLine />
        <p v-if="isArchived" class="archived">{{ t('entry.isArchived') }}</p>
        <p v-else-if="!copy.mayWriteAny.value" class="archived">{{ t('entry.mayOnlyRead') }}</p>
        <FieldSet :owner="type" :container="copy.values" :locale="locale" pointer="/values" />
      </article>
    </div>
    <PreviewFrame v-if="isPreviewOpen && copy.entry.value" :locale="locale" />
  </main>
  <StripBar :result="result">
    <template #start>
      <span v-if="failure" class="error-text failure" role="alert" :title="failure">{{ failure }}</span>
      <template v-else-if="recalled"
        >{{
          conflict
            ? t('entry.recoveredState', { when: ago(recalled), state: saveState })
            : t('entry.recovered', { when: ago(recalled) })
        }}
        <button v-if="copy.entry.value && !conflict" class="plain link" type="button" @click="save()">
          {{ t('common.save') }}
        </button>
        <button class="plain link" type="button" @click="discard">{{ t('common.discard') }}</button>
      </template>
      <template v-else
        >{{ saveState }}
        <RouterLink
          v-if="copy.entry.value"
          :to="{ name: 'compare', params: { site: site.name, id: copy.entry.value.id } }"
          >{{ t('entry.history') }}</RouterLink
        >
        <span v-if="duplicateOf"
          >{{ t('entry.duplicateOf') }} <EntryLink :id="duplicateOf.id" :site="site.name" :title="duplicateOf.title"
        /></span>
      </template>
    </template>
    <template #middle>
      <template v-if="conflict">
        <ElButton size="small" @click="isConflictOpen = true">{{ t('entry.compareBoth') }}</ElButton>
      </template>
      <template v-else>
        <PublicSituation
          v-model:locale="locale"
          :schedules="schedules"
          :may-publish="mayPublish"
          @jump="jump"
          @cancel-schedule="cancelSchedule"
        />
      </template>
    </template>
    <template #end>
      <ElButton
        v-if="undo.canUndo.value || undo.canRedo.value"
        :disabled="!undo.canUndo.value"
        :title="t('entry.undoKey')"
        :aria-label="t('common.undo')"
        @click="undo.undo()"
        ><ElIcon aria-hidden="true"><RefreshLeft /></ElIcon
      ></ElButton>
      <ElButton v-if="undo.canRedo.value" :title="t('entry.redoKey')" :aria-label="t('entry.redo')" @click="undo.redo()"
        ><ElIcon aria-hidden="true"><RefreshRight /></ElIcon
      ></ElButton>
      <ElButton v-if="copy.entry.value" :aria-pressed="isPreviewOpen" @click="isPreviewOpen = !isPreviewOpen">{{
        isPreviewOpen ? t('entry.closePreview') : t('entry.preview')
      }}</ElButton>
      <ElButton v-if="maySave && !copy.entry.value && !isImmediate" :loading="isSaving" @click="save()">{{
        t('common.save')
      }}</ElButton>
      <ElDropdown v-if="copy.entry.value && (mayWrite || (mayPublish && isPublic))" trigger="click" placement="top-end">
        <ElButton>{{ t('common.more') }}</ElButton>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem v-if="mayWrite" @click="duplicate">{{ t('common.duplicate') }}</ElDropdownItem>
            <ElDropdownItem v-if="mayPublish && isPublic" @click="openGoing('withdraw')">{{
              t('entry.withdrawMore')
            }}</ElDropdownItem>
            <ElDropdownItem
              v-if="mayArchive && type.cardinality === 'many' && !isArchived"
              @click="openGoing('archive')"
              >{{ t('entry.archiveMore') }}</ElDropdownItem
            >
            <ElDropdownItem v-if="mayWrite" @click="openGoing('delete')">{{ t('common.deleteMore') }}</ElDropdownItem>
            <StartItems
              v-if="mayWrite"
              :site="site"
              :types="[type.name]"
              :entries="[copy.entry.value.id]"
              @started="result = $event"
              @failed="failure = $event"
            />
          </ElDropdownMenu>
        </template>
      </ElDropdown>
      <ElButton v-if="mayArchive && isArchived" type="primary" @click="reactivate">{{
        t('entry.reactivate')
      }}</ElButton>
      <ElButton
        v-else-if="mayPublish && isImmediate"
        type="primary"
        :loading="isSaving"
        :disabled="copy.entry.value !== undefined && !copy.isChanged.value && copy.entry.value.state === 'public'"
        @click="saveAndPublish"
        >{{ t('entry.saveAndPublish') }}</ElButton
      >
      <ElButton v-else-if="mayPublish" type="primary" @click="openSheet">{{ t('entry.publishMore') }}</ElButton>
    </template>
  </StripBar>
  <RemovalSheet
    v-if="going"
    v-model="isGoingOpen"
    :how="going"
    @taken-down="(text) => (result = text)"
    @deleted="leaveDeleted"
  />
  <PublishSheet v-model="isSheetOpen" @done="published" @scheduled="scheduled" @jump="jump" />
  <ConflictSheet v-if="conflict" v-model="isConflictOpen" @choose="choose" />
</template>

<style scoped>
.desk {
  display: grid;
  grid-template-columns: 208px minmax(0, 1fr);
  gap: 24px;
  padding-inline: 24px;
  min-block-size: 0;
}
.desk > :first-child {
  padding-block: 24px;
}
.scroll {
  overflow: auto;
  padding-block: 24px;
  scroll-padding-block: 64px;
}
.paper {
  inline-size: 704px;
  padding: 32px 40px 40px;
}
.desk.with-preview {
  grid-template-columns: 40px 528px minmax(0, 1fr);
  gap: 16px;
}
.desk.with-preview > :last-child {
  margin-block: 24px;
  block-size: auto;
}
.paper.with-preview {
  inline-size: 528px;
  padding-inline: 28px;
}
.folded {
  border-inline-end: 1px solid var(--w-hair);
}
.archived {
  margin: 0 0 16px;
  padding: 8px 12px;
  background: var(--w-sunk);
}
.failure {
  white-space: normal;
  display: block;
  font-size: 13px;
  line-height: 18px;
}
.link {
  color: var(--w-accent);
  text-decoration: underline;
}
@media (max-width: 1000px) {
  .desk,
  .desk.with-preview {
    grid-template-columns: minmax(0, 1fr);
    padding-inline: 16px;
  }
  .desk > :first-child:not(.scroll) {
    display: none;
  }
  .paper,
  .paper.with-preview {
    inline-size: auto;
    max-inline-size: 704px;
    padding: 24px;
  }
}
@media (max-width: 480px) {
  .paper,
  .paper.with-preview {
    padding: 16px;
  }
}
</style>
