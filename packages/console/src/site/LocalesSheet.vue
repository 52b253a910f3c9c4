<script setup lang="ts">
import { WisteriaProblem, type Job } from '@wisteria/client'
import type { LocaleConsequences } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import JobProgress from '../components/JobProgress.vue'
import { messagesOf } from '../messages'
import type { Site } from '../session'
import type { LocalesDraft } from './localesDraft'

/** What other locales, fallbacks or another time zone would do, before they are saved. */
const open = defineModel<boolean>({ required: true })
const { draft, site } = defineProps<{ draft: LocalesDraft; site: Site }>()
const emit = defineEmits<{ saved: []; discarded: [] }>()
const found = shallowRef<LocaleConsequences>()
const failures = ref<readonly string[]>([])
const isStale = ref(false)
const job = shallowRef<Job>()
const isBusy = ref(false)

watch(open, async (now) => {
  if (!now) return
  found.value = undefined
  failures.value = []
  isStale.value = false
  try {
    found.value = await site.editor.compareLocales(draft.now.value)
  } catch (error) {
    failures.value = messagesOf(error)
  }
})

const withdrawn = computed(() => (found.value?.retired ?? []).filter((one) => one.public > 0))
const canBeSaved = computed(
  () =>
    found.value !== undefined &&
    !isStale.value &&
    found.value.retired.every((one) => one.refused === null) &&
    !found.value.defaultChanged?.refused,
)
const action = computed(() =>
  withdrawn.value.length > 0 ? `Withdraw and remove ${withdrawn.value.map((one) => one.tag).join(', ')}` : 'Save',
)
const isEmpty = computed(() => {
  if (!found.value) return false
  const { added, retired, fallbacksChanged, timeZoneChanged, defaultChanged } = found.value
  return added.length + retired.length + fallbacksChanged.length === 0 && !timeZoneChanged && !defaultChanged
})
const count = (number: number, one: string, many: string): string => `${number} ${number === 1 ? one : many}`

async function save(): Promise<void> {
  failures.value = []
  isBusy.value = true
  const retire = withdrawn.value.map((one) => one.tag)
  try {
    await site.editor.setLocales(draft.now.value, retire, {
      version: draft.version,
      onProgress: (now) => (job.value = now),
    })
    open.value = false
    emit('saved')
  } catch (error) {
    isStale.value = error instanceof WisteriaProblem && error.status === 412
    failures.value = isStale.value
      ? ['Nothing was saved: somebody else has changed the locales since you opened this page.']
      : ['Nothing was saved.', ...messagesOf(error)]
  } finally {
    isBusy.value = false
    job.value = undefined
  }
}
</script>

<template>
  <ConsequenceSheet v-model="open" title="What these changes do">
    <p v-for="failure in failures" :key="failure" class="error-text" role="alert">{{ failure }}</p>
    <p v-if="isStale">
      Your changes are still on the page. Note what you need of them, then
      <ElButton size="small" @click="emit('discarded')">Discard my changes and load the newest</ElButton>
    </p>
    <p v-if="!found && failures.length === 0" class="quiet" role="status">Working out what changes…</p>
    <template v-if="found">
      <section v-for="one in found.retired" :key="one.tag" :aria-label="one.tag">
        <h3>
          <code>{{ one.tag }}</code> is removed
        </h3>
        <p v-if="one.refused" class="error-text">It cannot be removed. {{ one.refused }}</p>
        <template v-if="one.refused === null || one.public > 0">
          <p v-if="one.public === 0">No entry is public in it.</p>
          <template v-else>
            <p>It is withdrawn in {{ count(one.public, 'entry', 'entries') }}.</p>
            <p v-if="one.only > 0" class="error-text">
              {{ count(one.only, 'of them is public in no other locale', 'of them are public in no other locale') }}:
              readers lose {{ one.only === 1 ? 'it' : 'them' }} altogether.
            </p>
            <p v-if="one.paths > 0">{{ count(one.paths, 'URL stops', 'URLs stop') }} working.</p>
          </template>
          <p v-if="one.schedules > 0" class="error-text">
            {{ count(one.schedules, 'schedule names it, and would fail', 'schedules name it, and would fail') }}.
          </p>
          <p v-if="one.drafts > 0" class="quiet">
            The texts of {{ count(one.drafts, 'working copy', 'working copies') }} in it are kept. They come back when
            the locale is added again.
          </p>
        </template>
      </section>
      <section v-if="found.added.length > 0" aria-label="Added">
        <h3>
          <code>{{ found.added.join(', ') }}</code> {{ found.added.length === 1 ? 'is' : 'are' }} added
        </h3>
        <p>Readers get the fallbacks until something is published in {{ found.added.length === 1 ? 'it' : 'them' }}.</p>
      </section>
      <section v-if="found.fallbacksChanged.length > 0" aria-label="Fallbacks">
        <h3>
          <code>{{ found.fallbacksChanged.join(', ') }}</code>
          {{ found.fallbacksChanged.length === 1 ? 'has' : 'have' }}
          other fallbacks
        </h3>
        <p>Readers get other texts where a value is missing there.</p>
      </section>
      <section v-if="found.defaultChanged" aria-label="Default locale">
        <h3>
          <code>{{ found.defaultChanged.to }}</code> becomes the default locale
        </h3>
        <p v-if="found.defaultChanged.refused" class="error-text">{{ found.defaultChanged.refused }}</p>
        <p v-else>Readers who ask for no locale get it.</p>
      </section>
      <section v-if="found.timeZoneChanged" aria-label="Time zone">
        <h3>The time zone becomes {{ draft.now.value.timeZone }}</h3>
        <p>Conditions with today and dates without a zone are understood in it.</p>
      </section>
      <p v-if="isEmpty">Only names or the order of locales change.</p>
    </template>
    <template #foot>
      <ElButton :disabled="isBusy" @click="open = false">Cancel</ElButton>
      <ElButton
        v-if="found"
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
h3 {
  margin-block: 8px 4px;
  font-size: 14px;
}
p {
  margin: 0 0 4px;
}
</style>
