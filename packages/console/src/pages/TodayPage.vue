<script setup lang="ts">
import type { Job, ScheduleView, Webhook } from '@wisteria/client'
import { decide } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useActs } from '../acts'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import { openSite, nameOfActor, session, type Site } from '../session'
import { ago, moment } from '../times'
import ScheduleTime from '../schedules/ScheduleTime.vue'
import { t } from '../messages'
import FirstSteps from '../site/FirstSteps.vue'
import EntryLink from '../components/EntryLink.vue'
import DayList from '../today/DayList.vue'
import { waitingOn, type Waiting } from '../today/lists'
import TranslationsList from '../today/TranslationsList.vue'
import { isAllTranslated, translationsWaiting, type TranslationsWaiting } from '../today/translations'

/** What waits for the editor: schedules, failures, lists of entries, bulk actions. */
const props = defineProps<{ site: string }>()
const opened = shallowRef<Site>()
const scheduled = ref<ScheduleView[]>([])
const ended = ref<ScheduleView[]>([])
const waiting = shallowRef<Waiting[]>([])
const translations = shallowRef<TranslationsWaiting>({ mine: [], ready: [], locales: [] })
const jobs = ref<Job[]>([])
const paused = shallowRef<Webhook[]>([])
const trouble = ref<unknown>()
const isLoaded = ref(false)
/** The schedule whose time is being changed. */
const moving = ref<string>()

const mayPublish = computed(() => opened.value !== undefined && decide(opened.value.caller, 'entry.publish').allowed)
/** Failed ones first: each needs a decision. */
const became = computed(() => [
  ...ended.value.filter((job) => job.state === 'failed'),
  ...ended.value.filter((job) => job.state === 'done').slice(0, 10),
])

const scheduleWords = ({ does, locales, scheduledBy }: ScheduleView): string => {
  const name = nameOfActor(opened.value!, scheduledBy)
  return locales
    ? t(`today.scheduledIn.${does}`, { locales: locales.join(', '), name })
    : t(`today.scheduledBy.${does}`, { name })
}

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    opened.value ??= await openSite(props.site)
    const { editor } = opened.value
    const [now, before, lists, texts, all, { webhooks }] = await Promise.all([
      editor.schedules(),
      editor.schedules({ ended: true }),
      waitingOn(opened.value, session.value?.account.email ?? ''),
      translationsWaiting(opened.value),
      editor.jobs(),
      decide(opened.value.caller, 'integration.manage').allowed ? editor.webhooks.list() : { webhooks: [] },
    ])
    scheduled.value = now.schedules
    ended.value = before.schedules
    waiting.value = lists
    translations.value = texts
    jobs.value = all.jobs.filter((job) => job.kind === 'bulk').slice(0, 8)
    paused.value = webhooks.filter(({ enabled, pausedAt }) => enabled && pausedAt !== null)
    isLoaded.value = true
  } catch (error) {
    trouble.value = error
  }
}
onMounted(load)

/** A bulk action by its name: the action, and the number of entries. */
function jobName({ does, undoes, total }: Job): string {
  const action = t(`today.actions.${does!}`, { n: total })
  return undoes === null ? action : t('today.undoOf', { action })
}
const undone = computed(() => new Set(jobs.value.map(({ undoes }) => undoes)))
const mayUndo = (job: Job): boolean => job.state !== 'running' && job.undoes === null && !undone.value.has(job.id)

const { result, refused, act } = useActs(load)
const cancelSchedule = (schedule: ScheduleView) =>
  act(() => opened.value!.editor.cancelSchedule(schedule.id), t('today.cancelled'))
const move = (schedule: ScheduleView, at: string, zone: string) =>
  act(async () => {
    const locales = schedule.locales ? { locales: schedule.locales } : {}
    await opened.value!.editor.reschedule(schedule.id, { at, zone, ...locales })
    moving.value = undefined
  }, t('today.moved'))
const undoJob = (job: Job) =>
  act(async () => opened.value!.editor.waitFor(await opened.value!.editor.undoJob(job.id)), t('today.undone'))
</script>

<template>
  <main class="work" data-region="work">
    <section class="timeline">
      <h1 class="page-name">{{ t('shell.today') }}</h1>
      <PageTrouble v-if="trouble" :error="trouble" @again="load" />
      <template v-else-if="isLoaded && opened">
        <FirstSteps :site="opened" />
        <ul v-if="paused.length > 0" class="rows" :aria-label="t('today.pausedWebhooks')">
          <li v-for="webhook in paused" :key="webhook.id" class="row paper">
            <time class="quiet" :datetime="webhook.pausedAt!">{{ ago(webhook.pausedAt!) }}</time>
            <span>
              <RouterLink
                class="serif title"
                :to="{ name: 'webhook', params: { site: props.site, webhook: webhook.id } }"
                ><bdi>{{ webhook.label }}</bdi></RouterLink
              >
              <span class="error-text">{{ t('today.webhookPaused') }}</span>
            </span>
          </li>
        </ul>
        <ul v-if="became.length > 0" class="rows" :aria-label="t('today.whatBecame')">
          <li v-for="schedule in became" :key="schedule.id" class="row paper">
            <time class="quiet" :datetime="schedule.endedAt ?? schedule.at">{{
              ago(schedule.endedAt ?? schedule.at)
            }}</time>
            <span>
              <EntryLink :id="schedule.entry" class="serif title" :site="props.site" :title="schedule.title" />
              <span v-if="schedule.state === 'failed'" class="error-text">{{
                t(`today.failed.${schedule.does}`, { message: schedule.message ?? '' })
              }}</span>
              <span v-else class="quiet">{{ t(`today.done.${schedule.does}`) }}</span>
            </span>
          </li>
        </ul>
        <div class="now" aria-hidden="true">
          <span>{{ t('today.now') }}</span>
        </div>
        <ul v-if="scheduled.length > 0" class="rows" :aria-label="t('today.scheduled')">
          <li v-for="schedule in scheduled" :key="schedule.id" class="row paper">
            <time :datetime="schedule.at">{{ moment(schedule.at, schedule.zone) }}</time>
            <span>
              <EntryLink :id="schedule.entry" class="serif title" :site="props.site" :title="schedule.title" />
              <span class="quiet">{{ scheduleWords(schedule) }}</span>
              <ScheduleTime
                v-if="moving === schedule.id"
                class="moving"
                :zone="schedule.zone"
                :from="schedule.at"
                :verb="t('today.moveIt')"
                @schedule="(at, zone) => move(schedule, at, zone)"
              />
            </span>
            <span v-if="mayPublish" class="tools">
              <ElButton size="small" @click="moving = moving === schedule.id ? undefined : schedule.id">{{
                moving === schedule.id ? t('today.leaveIt') : t('today.move')
              }}</ElButton>
              <ElButton size="small" @click="cancelSchedule(schedule)">{{ t('today.cancelSchedule') }}</ElButton>
            </span>
          </li>
        </ul>
        <p v-else class="quiet">{{ t('today.nothingScheduled') }}</p>
        <div v-if="waiting.length > 0 || !isAllTranslated(translations)" class="waiting">
          <TranslationsList :site="opened" :waiting="translations" />
          <DayList v-for="one in waiting" :key="one.title" :site="opened" v-bind="one" />
        </div>
        <p v-else class="content">{{ t('today.allPublic') }}</p>
      </template>
    </section>
    <aside v-if="jobs.length > 0 && opened" class="margin">
      <h2>{{ t('today.bulk') }}</h2>
      <ul>
        <li v-for="job in jobs" :key="job.id">
          <b>{{ jobName(job) }}</b>
          <span class="quiet">{{ job.message }}</span>
          <small class="quiet">{{ nameOfActor(opened, job.startedBy) }}, {{ ago(job.createdAt) }}</small>
          <button v-if="mayUndo(job)" class="plain link" type="button" @click="undoJob(job)">
            {{ t('common.undo') }}
          </button>
        </li>
      </ul>
    </aside>
  </main>
  <StripBar :result="result">
    <template #start
      ><span v-if="refused" class="error-text" role="alert">{{ refused }}</span></template
    >
    <template #middle
      ><span class="quiet">{{ t('today.scheduledCount', { count: scheduled.length }) }}</span></template
    >
  </StripBar>
</template>

<style scoped>
.work {
  display: grid;
  grid-template-columns: minmax(0, 960px) minmax(0, 280px);
  justify-content: space-between;
  gap: 40px;
  padding: 24px 24px 0;
  overflow: auto;
}
h2 {
  font-size: 13px;
  color: var(--w-ink2);
  margin-block: 0 8px;
}
ul {
  list-style: none;
  margin: 0 0 24px;
  padding: 0;
}
.rows {
  display: grid;
  gap: 1px;
}
.row {
  display: grid;
  grid-template-columns: 168px minmax(0, 1fr) auto;
  gap: 16px;
  align-items: baseline;
  padding: 8px 16px;
  border-radius: 0;
  font-size: 13px;
}
.title {
  display: block;
  font-size: 17px;
  line-height: 24px;
  color: var(--w-ink);
}
.now {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-block: 16px;
  color: var(--w-accent);
  font-size: 12px;
}
.now::after {
  content: '';
  flex: 1;
  border-block-start: 1px solid var(--w-accent);
}
.tools {
  display: flex;
  gap: 8px;
}
.moving {
  margin-block-start: 8px;
}
.waiting {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(360px, 100%), 1fr));
  align-items: start;
  gap: 24px;
  margin-block: 24px;
}
.margin li {
  display: grid;
  justify-items: start;
  gap: 2px;
  padding: 8px 0;
  border-block-end: 1px solid var(--w-hair);
  font-size: 13px;
}
.margin b {
  font-weight: 600;
}
.link {
  color: var(--w-accent);
  text-decoration: underline;
  font-size: 13px;
}
@media (max-width: 900px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
    align-content: start;
    padding: 16px 16px 0;
  }
  .row {
    grid-template-columns: minmax(0, 1fr);
    gap: 4px;
  }
}
</style>
