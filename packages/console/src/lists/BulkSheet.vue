<script setup lang="ts">
import type { BulkAction, BulkTrial, ChosenEntries, Job } from '@wisteria/client'
import { useTimeoutFn } from '@vueuse/core'
import { holdsLocales, type ContentType, type Field, type NamedEdit } from '@wisteria/core'
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import JobProgress from '../components/JobProgress.vue'
import PageTrouble from '../components/PageTrouble.vue'
import { controlOf } from '../controls/controls'
import type { Site } from '../session'
import { settable } from './bulkActions'
import { t } from '../messages'
import EntryLink from '../components/EntryLink.vue'
import LocalePicker from '../components/LocalePicker.vue'

/** One action on many entries: first its consequences, then the progress, then the result with Undo. */
const open = defineModel<boolean>({ required: true })
const { site, does, chosen, count, type } = defineProps<{
  site: Site
  does: BulkAction
  chosen: ChosenEntries
  /** How many entries are meant. */
  count: number
  /** Undefined where entries of several types are chosen. */
  type: ContentType | undefined
}>()
const emit = defineEmits<{ done: [result: string] }>()

const trial = ref<BulkTrial>()
const job = ref<Job>()
const undone = ref<Job>()
const trouble = ref<unknown>()
const isWorking = ref(false)
const locales = ref<string[]>([])
const field = ref<Field>()
const value = ref<unknown>()
const locale = ref(site.settings.defaultLocale)

const title = computed(() => t('bulk.title', { verb: t(`bulk.actions.${does}.verb`), n: count }))
const participle = computed(() => t(`bulk.actions.${does}.participle`))
const doneWords = (ended: Job | undefined): string =>
  t('bulk.ended', { done: t(`bulk.actions.${does}.done`), message: ended?.message ?? '' })
const undoneWords = (ended: Job | undefined): string => t('bulk.undoneTitle', { message: ended?.message ?? '' })
const fields = computed(() => (type ? settable(type) : []))
const edits = computed<NamedEdit[] | undefined>(() => {
  if (does !== 'edit' || !field.value) return undefined
  const place = { at: [field.value.name], ...(holdsLocales(field.value, false) ? { locale: locale.value } : {}) }
  return value.value === undefined ? [{ do: 'clear', ...place }] : [{ do: 'set', ...place, value: value.value }]
})
const order = computed(() => ({
  do: does,
  ...chosen,
  ...(locales.value.length > 0 ? { locales: locales.value } : {}),
  ...(edits.value ? { edits: edits.value } : {}),
}))
const isReady = computed(() => does !== 'edit' || edits.value !== undefined)
const refused = computed(() => trial.value?.items.filter((item) => item.state !== 'done') ?? [])
const going = computed(() => trial.value?.items.filter((item) => item.state === 'done') ?? [])
const shownGoing = 60
const left = ref<{ entry: string; title: string; message: string }[]>([])

/** Only the newest request counts, and none is sent during typing. */
let asked = 0
const { start: weighAfterPause, stop: stopWaiting } = useTimeoutFn(() => void weigh(), 400, { immediate: false })
function weighSoon(): void {
  asked++
  trial.value = undefined
  weighAfterPause()
}
async function weigh(): Promise<void> {
  const number = ++asked
  stopWaiting()
  trial.value = undefined
  trouble.value = undefined
  if (!isReady.value) return
  try {
    const result = await site.editor.tryBulk(order.value)
    if (number === asked) trial.value = result
  } catch (error) {
    if (number === asked) trouble.value = error
  }
}
watch(open, (now) => {
  if (!now) return
  job.value = undone.value = undefined
  left.value = []
  locales.value = []
  field.value = undefined
  value.value = undefined
  void weigh()
})
watch([locales, edits], () => open.value && !job.value && weighSoon())

async function follow(begun: Job, into: typeof job): Promise<Job | undefined> {
  into.value = begun
  try {
    into.value = await site.editor.waitFor(begun, (now) => (into.value = now))
  } catch {
    into.value = await site.editor.job(begun.id)
  }
  left.value = [...(await site.editor.bulkItems(begun.id, { refused: true })).items]
  return into.value
}

async function run(): Promise<void> {
  isWorking.value = true
  trouble.value = undefined
  try {
    const ended = await follow(await site.editor.bulk(order.value), job)
    emit('done', doneWords(ended))
  } catch (error) {
    trouble.value = error
  } finally {
    isWorking.value = false
  }
}
async function undoJob(): Promise<void> {
  isWorking.value = true
  try {
    const ended = await follow(await site.editor.undoJob(job.value!.id), undone)
    emit('done', undoneWords(ended))
  } catch (error) {
    trouble.value = error
  } finally {
    isWorking.value = false
  }
}
const shown = computed(() => undone.value ?? job.value)
</script>

<template>
  <ConsequenceSheet v-model="open" fits :title="title">
    <PageTrouble v-if="trouble" :error="trouble" :safe="t('bulk.nothingChanged')" @again="weigh" />
    <template v-else-if="shown">
      <p class="content" role="status">
        {{ shown.state === 'running' ? shown.message : undone ? undoneWords(shown) : doneWords(shown) }}
      </p>
      <JobProgress v-if="shown.state === 'running'" :job="shown" />
      <ul v-if="left.length > 0" class="left">
        <li v-for="item in left" :key="item.entry">
          <EntryLink :id="item.entry" class="serif" :site="site.name" :title="item.title" />
          <span class="quiet">{{ item.message }}</span>
        </li>
      </ul>
      <p v-if="shown.state !== 'running' && !undone" class="quiet">
        {{ t('bulk.canBeUndone') }}
      </p>
    </template>
    <template v-else>
      <div v-if="does === 'edit'" class="set">
        <ElSelect v-model="field" value-key="id" :placeholder="t('bulk.chooseField')" :aria-label="t('bulk.field')">
          <ElOption v-for="item in fields" :key="item.id" :value="item" :label="item.label" />
        </ElSelect>
        <ElSelect
          v-if="field && holdsLocales(field, false)"
          v-model="locale"
          :aria-label="t('bulk.locale')"
          class="narrow"
        >
          <ElOption v-for="item in site.settings.locales" :key="item.tag" :value="item.tag" :label="item.label" />
        </ElSelect>
        <div v-if="field" class="control">
          <label for="bulk-value">{{ field.label }}</label>
          <component
            :is="controlOf(field.kind)"
            id="bulk-value"
            :field="field"
            :value="value"
            :locale="locale"
            direction="ltr"
            @change="(next: unknown) => (value = next)"
          />
          <p class="quiet">{{ t('bulk.leftEmpty') }}</p>
        </div>
        <p v-if="fields.length === 0" class="quiet">{{ t('bulk.chooseOneType') }}</p>
      </div>
      <p v-if="!trial && isReady" class="quiet" role="status">{{ t('bulk.workingOut') }}</p>
      <template v-if="trial">
        <p class="content">
          {{ trial.tried < trial.total ? t('bulk.ofTheFirst', { tried: trial.tried, total: trial.total }) : '' }}
          {{
            refused.length > 0
              ? t('bulk.someWould', { count: trial.tried - refused.length, what: participle, refused: refused.length })
              : t('bulk.allWould', { count: trial.tried, what: participle })
          }}
        </p>
        <ul v-if="refused.length > 0" class="left">
          <li v-for="item in refused" :key="item.entry">
            <span class="serif" dir="auto">{{ item.title || t('common.noName') }}</span>
            <span class="error-text">{{ item.message }}</span>
          </li>
        </ul>
        <ul v-if="going.length > 0" class="going" :aria-label="t('bulk.wouldBe', { what: participle })">
          <li v-for="item in going.slice(0, shownGoing)" :key="item.entry" class="serif" dir="auto">
            {{ item.title || t('common.noName') }}
          </li>
          <li v-if="trial.total - refused.length > shownGoing" class="quiet">
            {{ t('common.andMore', { count: trial.total - refused.length - shownGoing }) }}
          </li>
        </ul>
        <p class="quiet">{{ t(`bulk.actions.${does}.note`) }}</p>
      </template>
    </template>
    <template #foot>
      <template v-if="!shown">
        <LocalePicker
          v-if="does === 'publish' || does === 'withdraw'"
          v-model="locales"
          :tags="site.settings.locales.map((item) => item.tag)"
          :aria-label="t('bulk.locales')"
        />
        <span v-if="does === 'publish'" class="quiet">{{ locales.length === 0 ? t('bulk.allLocales') : '' }}</span>
        <span class="gap" />
        <ElButton @click="open = false">{{ t('common.notNow') }}</ElButton>
        <ElButton
          :type="['delete', 'withdraw', 'archive'].includes(does) ? 'danger' : 'primary'"
          :loading="isWorking"
          :disabled="!trial || trial.total === 0 || (trial.tried === trial.total && refused.length === trial.total)"
          @click="run"
          >{{ t('bulk.button', { verb: t(`bulk.actions.${does}.verb`), count }) }}</ElButton
        >
      </template>
      <template v-else>
        <span class="gap" />
        <ElButton v-if="shown.state === 'running'" @click="site.editor.stopJob(shown.id)">{{
          t('bulk.stop')
        }}</ElButton>
        <ElButton v-else-if="!undone && job" :loading="isWorking" @click="undoJob">{{ t('common.undo') }}</ElButton>
        <ElButton type="primary" @click="open = false">{{ t('common.close') }}</ElButton>
      </template>
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
.left {
  list-style: none;
  margin: 0 0 16px;
  padding: 0;
  columns: 2;
  column-gap: 40px;
}
.left li {
  break-inside: avoid;
  display: grid;
  padding: 4px 0;
  border-block-end: 1px solid var(--w-hair);
}
.going {
  list-style: none;
  margin: 0 0 16px;
  padding: 0;
  columns: 3;
  column-gap: 40px;
}
.going li {
  break-inside: avoid;
  padding: 2px 0;
}
.set {
  display: flex;
  flex-wrap: wrap;
  gap: 16px;
  align-items: start;
  margin-block-end: 16px;
}
.set > * {
  inline-size: 260px;
}
.set .narrow {
  inline-size: 160px;
}
.set .control {
  inline-size: 400px;
}
.gap {
  flex: 1;
}
</style>
