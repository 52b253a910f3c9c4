<script setup lang="ts">
import { canonicalTag, decide, directionOf, withLocale, withoutLocale } from '@wisteria/core'
import { ArrowDown, ArrowUp } from '@element-plus/icons-vue'
import { ElButton, ElCheckbox, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue'
import StripBar from '../components/StripBar.vue'
import TimeZoneSelect from '../components/TimeZoneSelect.vue'
import { forgetSites, loadSession, openSite, type Site } from '../session'
import FallbackChain from '../site/FallbackChain.vue'
import ReadingAccess from '../site/ReadingAccess.vue'
import RegionSettings from '../site/RegionSettings.vue'
import RemovedLocales from '../site/RemovedLocales.vue'
import SettingsFrame from '../site/SettingsFrame.vue'
import LocalesSheet from '../site/LocalesSheet.vue'
import { forgetLocalesDraft, openLocalesDraft, type LocalesDraft } from '../site/localesDraft'
import { ago } from '../times'
import RowTable from '../components/RowTable.vue'
import { t } from '../messages'
import MessageText from '../components/MessageText.vue'

/** The name, the time zone and the locales of a site, each with its chain of fallbacks. */
const props = defineProps<{ site: string }>()
const opened = shallowRef<Site>()
const draft = shallowRef<LocalesDraft>()
const trouble = shallowRef<unknown>()
const isOpen = ref(false)
const result = ref('')
const added = ref('')
const refused = ref('')

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    const site = await openSite(props.site)
    draft.value = await openLocalesDraft(site)
    opened.value = site
  } catch (error) {
    trouble.value = error
  }
}
onMounted(load)

const mayChange = computed(() => opened.value !== undefined && decide(opened.value.caller, 'settings.change').allowed)
const now = computed(() => draft.value?.now.value)
const nameOf = (tag: string): string => now.value?.locales.find((locale) => locale.tag === tag)?.label ?? tag
const problemsAt = (pointer: string): string => draft.value?.problemsAt(pointer).join(' ') ?? ''
watch(
  () => draft.value?.isChanged.value,
  (isChanged) => isChanged && (result.value = ''),
)
const words = computed(() => {
  if (!draft.value?.isChanged.value) return ''
  const { recoveredAt, isOutdated, problems } = draft.value
  if (problems.value.length > 0) return problems.value[0]!.message
  if (isOutdated) return t('site.recoveredElsewhere', { when: ago(recoveredAt!) })
  return recoveredAt ? t('site.recovered', { when: ago(recoveredAt) }) : t('site.notSaved')
})

function add(): void {
  refused.value = ''
  const tag = canonicalTag(added.value.trim()) ?? added.value.trim()
  if (tag === '') return
  const wanted = withLocale(now.value!, tag)
  const before = draft.value!.now.value
  draft.value!.now.value = wanted
  const wrong = problemsAt(`/locales/${wanted.locales.length - 1}/tag`)
  if (wrong !== '') {
    // It stays in its field until it is right.
    draft.value!.now.value = before
    refused.value = wrong
    return
  }
  added.value = ''
}
function move(from: number, to: number, tag: string): void {
  draft.value!.move(from, to)
  const up = to < from
  void nextTick(() => {
    const row = document.getElementById(`locale-${tag}`)
    const [first, second] = row?.querySelectorAll<HTMLElement>('.order button') ?? []
    ;(up ? first : second)?.focus()
  })
}
function discard(): void {
  forgetLocalesDraft(props.site)
  isOpen.value = false
  result.value = t('common.changesDiscarded')
  void load()
}
/** Regions are part of the settings, which have another version now. */
async function takeRegions(message: string): Promise<void> {
  forgetLocalesDraft(props.site)
  forgetSites()
  await load()
  result.value = message
}
async function takeSaved(): Promise<void> {
  forgetLocalesDraft(props.site)
  forgetSites()
  await Promise.all([loadSession(), load()])
  result.value = t('common.savedStop')
}
</script>

<template>
  <SettingsFrame :site="props.site" :trouble="trouble" @again="load">
    <template v-if="draft && now && opened">
      <h1 class="page-name">{{ t('site.siteAndLocales') }}</h1>
      <div class="settings">
        <label for="site-label">{{ t('site.nameOfSite') }}</label>
        <ElInput
          id="site-label"
          :model-value="now.label"
          :disabled="!mayChange"
          maxlength="120"
          @update:model-value="draft.now.value = { ...now, label: $event }"
        />
        <p v-if="problemsAt('/label')" class="error-text">{{ problemsAt('/label') }}</p>
        <label for="site-zone">{{ t('site.timeZone') }}</label>
        <TimeZoneSelect
          id="site-zone"
          :model-value="now.timeZone"
          :disabled="!mayChange"
          @update:model-value="draft.now.value = { ...now, timeZone: $event }"
        />
        <label for="site-default">{{ t('site.defaultLocale') }}</label>
        <ElSelect
          id="site-default"
          :model-value="now.defaultLocale"
          :disabled="!mayChange"
          @update:model-value="draft.now.value = { ...now, defaultLocale: $event as string }"
        >
          <ElOption
            v-for="locale in now.locales"
            :key="locale.tag"
            :value="locale.tag"
            :label="`${locale.label} (${locale.tag})`"
          />
        </ElSelect>
      </div>
      <RowTable :heads="[t('site.locale'), t('site.name'), t('site.fallsBackTo')]" :has-actions="mayChange">
        <tr v-for="(item, index) in now.locales" :id="`locale-${item.tag}`" :key="item.tag">
          <th scope="row">
            <bdi dir="ltr"
              ><code>{{ item.tag }}</code></bdi
            >
            <small v-if="item.tag === now.defaultLocale" class="quiet">{{ t('site.default') }}</small>
            <small v-if="directionOf(item.tag) === 'rtl'" class="quiet">{{ t('site.rightToLeft') }}</small>
          </th>
          <td>
            <ElInput
              :model-value="item.label"
              :aria-label="t('site.nameOf', { locale: item.tag })"
              :disabled="!mayChange"
              :lang="item.tag"
              :dir="directionOf(item.tag)"
              maxlength="80"
              @update:model-value="draft.changeLocale(index, { label: $event })"
            />
            <p v-if="problemsAt(`/locales/${index}`)" class="error-text">{{ problemsAt(`/locales/${index}`) }}</p>
          </td>
          <td>
            <ElSelect
              v-if="now.locales.length > 1"
              :model-value="[...item.fallback]"
              :aria-label="t('site.fallbacksOf', { locale: item.tag })"
              :disabled="!mayChange"
              multiple
              :placeholder="t('site.noFallback')"
              @update:model-value="draft.changeLocale(index, { fallback: $event as string[] })"
            >
              <ElOption
                v-for="other in now.locales.filter(({ tag }) => tag !== item.tag)"
                :key="other.tag"
                :value="other.tag"
                :label="nameOf(other.tag)"
              />
            </ElSelect>
            <FallbackChain :settings="now" :tag="item.tag" />
            <ElCheckbox
              v-if="item.tag !== now.defaultLocale && item.fallback.length > 0"
              size="small"
              :model-value="item.variant === true"
              :disabled="!mayChange"
              @change="draft.changeLocale(index, { variant: $event === true ? true : undefined })"
              >{{ t('site.variant') }}</ElCheckbox
            >
          </td>
          <td v-if="mayChange" class="actions">
            <span class="order">
              <ElButton
                text
                :icon="ArrowUp"
                :disabled="index === 0"
                :aria-label="t('controls.moveUp', { name: item.tag })"
                @click="move(index, index - 1, item.tag)"
              />
              <ElButton
                text
                :icon="ArrowDown"
                :disabled="index === now.locales.length - 1"
                :aria-label="t('controls.moveDown', { name: item.tag })"
                @click="move(index, index + 1, item.tag)"
              />
            </span>
            <ElButton
              size="small"
              :disabled="item.tag === now.defaultLocale"
              :title="item.tag === now.defaultLocale ? t('site.defaultStays') : undefined"
              :aria-label="t('controls.removeNamed', { name: item.tag })"
              @click="draft.now.value = withoutLocale(now, item.tag)"
              >{{ t('common.remove') }}</ElButton
            >
          </td>
        </tr>
      </RowTable>
      <form v-if="mayChange" class="add" @submit.prevent="add">
        <label for="new-locale"
          ><MessageText of="site.tagExample"
            ><template #language><code>de</code></template
            ><template #region><code>nl-BE</code></template></MessageText
          ></label
        >
        <ElInput id="new-locale" v-model="added" dir="ltr" maxlength="40" />
        <ElButton native-type="submit">{{ t('site.addLocale') }}</ElButton>
        <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
      </form>
      <RemovedLocales
        :key="opened.settings.locales.length"
        :site="opened"
        :disabled="!mayChange"
        @deleted="result = $event"
      />
      <RegionSettings :site="opened" :disabled="!mayChange || draft.isChanged.value" @changed="takeRegions" />
      <ReadingAccess :site="opened" :disabled="!mayChange" @changed="result = $event" />
    </template>
  </SettingsFrame>
  <StripBar :result="result">
    <template #middle>
      <span v-if="words" :class="{ 'error-text': draft!.problems.value.length > 0 }">{{ words }}</span>
    </template>
    <template v-if="draft?.isChanged.value && mayChange" #end>
      <ElButton @click="discard">{{ t('common.discardChanges') }}</ElButton>
      <ElButton type="primary" :disabled="draft.problems.value.length > 0" @click="isOpen = true">{{
        t('common.seeConsequences')
      }}</ElButton>
    </template>
  </StripBar>
  <LocalesSheet
    v-if="draft && opened"
    v-model="isOpen"
    :draft="draft"
    :site="opened"
    @saved="takeSaved"
    @discarded="discard"
  />
</template>

<style scoped>
.settings {
  display: grid;
  gap: 4px;
  max-inline-size: 400px;
  margin-block-end: 32px;
}
label {
  margin-block-start: 8px;
  font-size: 13px;
  color: var(--w-ink2);
}
tbody th {
  padding-block-start: 13px;
  font-weight: 400;
  white-space: nowrap;
}
tbody th small {
  display: block;
}
td:nth-child(2) {
  inline-size: 220px;
}
td .error-text {
  margin: 4px 0 0;
}
.order .el-button {
  padding-inline: 6px;
  margin: 0;
}
.add {
  display: grid;
  grid-template-columns: 240px auto 1fr;
  gap: 4px 8px;
  margin-block-start: 16px;
}
.add label,
.add p {
  grid-column: 1 / -1;
}
.add .el-button {
  justify-self: start;
}
</style>
