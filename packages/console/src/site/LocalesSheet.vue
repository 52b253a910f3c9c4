<script setup lang="ts">
import { WisteriaProblem, type Job } from '@wisteria/client'
import type { LocaleConsequences } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import JobProgress from '../components/JobProgress.vue'
import { messagesOf, t } from '../messages'
import type { Site } from '../session'
import type { LocalesDraft } from './localesDraft'
import MessageText from '../components/MessageText.vue'

/** The consequences of other locales, fallbacks or another time zone, before they are saved. */
const open = defineModel<boolean>({ required: true })
const { draft, site } = defineProps<{ draft: LocalesDraft; site: Site }>()
const emit = defineEmits<{ saved: []; discarded: [] }>()
const consequences = shallowRef<LocaleConsequences>()
const failures = ref<readonly string[]>([])
const isStale = ref(false)
const job = shallowRef<Job>()
const isBusy = ref(false)

watch(open, async (now) => {
  if (!now) return
  consequences.value = undefined
  failures.value = []
  isStale.value = false
  try {
    consequences.value = await site.editor.compareLocales(draft.now.value)
  } catch (error) {
    failures.value = messagesOf(error)
  }
})

const withdrawn = computed(() => (consequences.value?.retired ?? []).filter((change) => change.public > 0))
const canBeSaved = computed(
  () =>
    consequences.value !== undefined &&
    !isStale.value &&
    consequences.value.retired.every((locale) => locale.refused === null) &&
    !consequences.value.defaultChanged?.refused,
)
const action = computed(() =>
  withdrawn.value.length > 0
    ? t('site.withdrawAndRemove', { locales: withdrawn.value.map((locale) => locale.tag).join(', ') })
    : t('common.save'),
)
const isEmpty = computed(() => {
  if (!consequences.value) return false
  const { added, retired, fallbacksChanged, variantsChanged, timeZoneChanged, defaultChanged } = consequences.value
  return (
    added.length + retired.length + fallbacksChanged.length + variantsChanged.length === 0 &&
    !timeZoneChanged &&
    !defaultChanged
  )
})

async function save(): Promise<void> {
  failures.value = []
  isBusy.value = true
  const retire = withdrawn.value.map((locale) => locale.tag)
  try {
    await site.editor.setLocales(draft.now.value, retire, {
      version: draft.version,
      onProgress: (now) => (job.value = now),
    })
    open.value = false
    emit('saved')
  } catch (error) {
    isStale.value = error instanceof WisteriaProblem && error.status === 412
    failures.value = isStale.value ? [t('site.nothingSavedElsewhere')] : [t('site.nothingSaved'), ...messagesOf(error)]
  } finally {
    isBusy.value = false
    job.value = undefined
  }
}
</script>

<template>
  <ConsequenceSheet v-model="open" :title="t('site.whatChangesDo')">
    <p v-for="failure in failures" :key="failure" class="error-text" role="alert">{{ failure }}</p>
    <p v-if="isStale">
      {{ t('site.changesAreStillThere') }}
      <ElButton size="small" @click="emit('discarded')">{{ t('site.discardAndLoad') }}</ElButton>
    </p>
    <p v-if="!consequences && failures.length === 0" class="quiet" role="status">{{ t('common.workingOut') }}</p>
    <template v-if="consequences">
      <section v-for="item in consequences.retired" :key="item.tag" :aria-label="item.tag">
        <h3>
          <MessageText of="site.isRemoved"
            ><template #locale
              ><code>{{ item.tag }}</code></template
            ></MessageText
          >
        </h3>
        <p v-if="item.refused" class="error-text">{{ t('site.cannotRemove', { why: item.refused }) }}</p>
        <template v-if="item.refused === null || item.public > 0">
          <p v-if="item.public === 0">{{ t('site.noneInIt') }}</p>
          <template v-else>
            <p>{{ t('site.withdrawnIn', { n: item.public }) }}</p>
            <p v-if="item.only > 0" class="error-text">
              {{ t('site.onlyHere', { n: item.only }) }}
            </p>
            <p v-if="item.paths > 0">{{ t('site.urlsStop', { n: item.paths }) }}</p>
          </template>
          <p v-if="item.schedules > 0" class="error-text">
            {{ t('site.schedulesFail', { n: item.schedules }) }}
          </p>
          <p v-if="item.drafts > 0" class="quiet">
            {{ t('site.textsKept', { n: item.drafts }) }}
          </p>
        </template>
      </section>
      <section v-if="consequences.added.length > 0" :aria-label="t('site.added')">
        <h3>
          <MessageText of="site.areAdded" :n="consequences.added.length"
            ><template #locales
              ><code>{{ consequences.added.join(', ') }}</code></template
            ></MessageText
          >
        </h3>
        <p>{{ t('site.addedExplained', { n: consequences.added.length }) }}</p>
      </section>
      <section v-if="consequences.fallbacksChanged.length > 0" :aria-label="t('site.fallbacks')">
        <h3>
          <MessageText of="site.otherFallbacks" :n="consequences.fallbacksChanged.length"
            ><template #locales
              ><code>{{ consequences.fallbacksChanged.join(', ') }}</code></template
            ></MessageText
          >
        </h3>
        <p>{{ t('site.otherTexts') }}</p>
      </section>
      <section v-if="consequences.variantsChanged.length > 0" :aria-label="t('site.variants')">
        <h3>{{ t('site.variants') }}</h3>
        <p>{{ t('site.variantsChanged', { locales: consequences.variantsChanged.join(', ') }) }}</p>
      </section>
      <section v-if="consequences.defaultChanged" :aria-label="t('site.defaultLocale')">
        <h3>
          <MessageText of="site.becomesDefault"
            ><template #locale
              ><code>{{ consequences.defaultChanged.to }}</code></template
            ></MessageText
          >
        </h3>
        <p v-if="consequences.defaultChanged.refused" class="error-text">{{ consequences.defaultChanged.refused }}</p>
        <p v-else>{{ t('site.readersGetIt') }}</p>
      </section>
      <section v-if="consequences.timeZoneChanged" :aria-label="t('site.timeZone')">
        <h3>{{ t('site.timeZoneBecomes', { zone: draft.now.value.timeZone }) }}</h3>
        <p>{{ t('site.zoneExplained') }}</p>
      </section>
      <p v-if="isEmpty">{{ t('site.onlyNames') }}</p>
    </template>
    <template #foot>
      <ElButton :disabled="isBusy" @click="open = false">{{ t('common.cancel') }}</ElButton>
      <ElButton
        v-if="consequences"
        :type="withdrawn.length > 0 ? 'danger' : 'primary'"
        :disabled="!canBeSaved"
        :loading="isBusy"
        @click="save"
        >{{ action }}</ElButton
      >
      <JobProgress v-if="job" :job="job" />
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
section {
  padding-block: 8px;
  border-block-end: 1px solid var(--w-hair);
}
p {
  margin: 0 0 4px;
}
</style>
