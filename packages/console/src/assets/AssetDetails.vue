<script setup lang="ts">
import type { Asset, AssetChange, UsedBy } from '@wisteria/client'
import { decide, directionOf } from '@wisteria/core'
import { ElButton, ElInput } from 'element-plus'
import { computed, reactive, ref, watch } from 'vue'
import type { Site } from '../session'
import { moment } from '../times'
import { fileOf, isPicture, sizeWords } from './address'
import AssetRevisions from './AssetRevisions.vue'
import { replaceFile } from './upload'
import ConfirmButton from '../components/ConfirmButton.vue'
import { messageOf, t } from '../messages'
import EntryLink from '../components/EntryLink.vue'

/** The details of a file: its texts by locale, its focal point, the entries that use it. */
const { site, asset, mayWrite } = defineProps<{ site: Site; asset: Asset; mayWrite: boolean }>()
const emit = defineEmits<{ changed: [asset: Asset]; deleted: [] }>()

const locale = ref(site.settings.defaultLocale)
const usedBy = ref<readonly UsedBy[]>([])
const refused = ref('')
const saved = ref('')
const share = ref<number>()
const picker = ref<HTMLInputElement>()

watch(
  () => asset.id,
  async (id) => {
    usedBy.value = []
    refused.value = saved.value = ''
    usedBy.value = (await site.editor.assetUsage(id).catch(() => ({ usedBy: [] }))).usedBy
  },
  { immediate: true },
)

async function act(work: () => Promise<Asset>, done = t('common.savedStop')): Promise<void> {
  refused.value = saved.value = ''
  try {
    emit('changed', await work())
    saved.value = done
  } catch (error) {
    refused.value = messageOf(error)
  }
}
/** Texts of a locale are for translators too. */
const maySay = computed(() => decide(site.caller, 'entry.translate', { locales: [locale.value] }).allowed)
const change = (what: AssetChange) => act(() => site.editor.changeAsset(asset.id, what))
const texts = [
  { name: 'alt', label: t('assets.alternativeText'), rows: 2 },
  { name: 'title', label: t('assets.title'), rows: 1 },
  { name: 'caption', label: t('assets.caption'), rows: 2 },
] as const
/** Texts that are not saved yet: they are saved on leaving their field. */
const written = reactive<{ alt?: string; title?: string; caption?: string }>({})
function forget(): void {
  for (const { name } of texts) delete written[name]
}
watch([() => asset.id, locale], forget)
async function keep(name: 'alt' | 'title' | 'caption'): Promise<void> {
  const now = written[name]
  if (now === undefined) return
  await change({ [name]: { [locale.value]: now.trim() === '' ? null : now } })
  if (written[name] === now && refused.value === '') delete written[name]
}
const missing = computed(() =>
  isPicture(asset) ? site.settings.locales.map(({ tag }) => tag).filter((tag) => !asset.alt[tag]) : [],
)

/** A click in the picture sets its focal point. */
function focus(event: MouseEvent): void {
  if (!mayWrite) return
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const part = (value: number) => Math.round(Math.min(Math.max(value, 0), 1) * 100) / 100
  void change({
    focalPoint: { x: part((event.clientX - box.left) / box.width), y: part((event.clientY - box.top) / box.height) },
  })
}
function nudge(event: KeyboardEvent): void {
  const steps: Record<string, [number, number]> = {
    ArrowLeft: [-0.05, 0],
    ArrowRight: [0.05, 0],
    ArrowUp: [0, -0.05],
    ArrowDown: [0, 0.05],
  }
  const step = steps[event.key]
  if (!step || !mayWrite) return
  event.preventDefault()
  const now = asset.focalPoint ?? { x: 0.5, y: 0.5 }
  const part = (value: number) => Math.round(Math.min(Math.max(value, 0), 1) * 100) / 100
  void change({ focalPoint: { x: part(now.x + step[0]), y: part(now.y + step[1]) } })
}

async function replace(event: Event): Promise<void> {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  share.value = 0
  await act(() => replaceFile(site.name, asset.id, file, (now) => (share.value = now)))
  share.value = undefined
  picker.value!.value = ''
}
const isHeld = computed(() => usedBy.value.some((referrer) => referrer.inWorkingCopy || referrer.inPublic))
function whereOf(use: UsedBy): string {
  if (use.inBin) return use.inWorkingCopy ? t('assets.inBin') : t('assets.inOlderRevisions')
  if (use.inRevisions.length > 0) return t('assets.onlyInRevisions', { revisions: use.inRevisions.join(', ') })
  return use.inPublic ? 'public' : t('assets.inWorkingCopy')
}
async function remove(): Promise<void> {
  refused.value = ''
  try {
    await site.editor.deleteAsset(asset.id, usedBy.value.length > 0 ? { revisions: 'ignore' } : {})
    emit('deleted')
  } catch (error) {
    refused.value = messageOf(error)
  }
}
</script>

<template>
  <div class="details">
    <button
      v-if="isPicture(asset)"
      class="plain picture"
      type="button"
      :disabled="!mayWrite"
      :aria-label="t('assets.focalPoint')"
      @click="focus"
      @keydown="nudge"
    >
      <img :src="fileOf(asset, { w: 640 })" :alt="asset.alt[locale] ?? ''" />
      <span
        v-if="asset.focalPoint"
        class="focal"
        :style="{ left: `${asset.focalPoint.x * 100}%`, top: `${asset.focalPoint.y * 100}%` }"
      />
    </button>
    <p class="name">
      <a :href="fileOf(asset)" target="_blank" rel="noopener"
        ><bdi>{{ asset.name }}</bdi></a
      >
      <span class="quiet"
        >{{ asset.width ? `${asset.width} × ${asset.height}, ` : '' }}{{ sizeWords(asset.size) }},
        {{ moment(asset.createdAt) }}</span
      >
    </p>
    <p v-if="missing.length > 0" class="warn">{{ t('assets.noAlternativeIn', { locales: missing.join(', ') }) }}</p>
    <div class="locales" role="group" :aria-label="t('assets.localeOfTexts')">
      <button
        v-for="item in site.settings.locales"
        :key="item.tag"
        class="plain"
        type="button"
        :aria-pressed="item.tag === locale"
        :title="item.label"
        @click="locale = item.tag"
      >
        {{ item.tag }}
      </button>
    </div>
    <div v-for="text in texts" :key="text.name" class="text">
      <label :for="`asset-${text.name}`">{{ text.label }}</label>
      <ElInput
        :id="`asset-${text.name}`"
        :model-value="written[text.name] ?? asset[text.name][locale] ?? ''"
        type="textarea"
        :rows="text.rows"
        maxlength="1000"
        :disabled="!maySay"
        :dir="directionOf(locale)"
        :lang="locale"
        @update:model-value="(now: string) => (written[text.name] = now)"
        @change="keep(text.name)"
      />
    </div>
    <p class="said" role="status">
      <span v-if="refused" class="error-text">{{ refused }}</span>
      <span v-else class="quiet">{{
        share === undefined ? saved : t('assets.replacing', { percent: Math.round(share * 100) })
      }}</span>
    </p>
    <h3>{{ t('common.usedBy') }}</h3>
    <ul v-if="usedBy.length > 0">
      <li v-for="referrer in usedBy" :key="referrer.id">
        <bdi v-if="referrer.inBin" class="serif">{{ referrer.title || t('common.noName') }}</bdi>
        <EntryLink v-else :id="referrer.id" class="serif" :site="site.name" :title="referrer.title" />
        <small class="quiet">{{ whereOf(referrer) }}</small>
      </li>
    </ul>
    <p v-else class="quiet">{{ t('assets.notUsed') }}</p>
    <AssetRevisions
      v-if="asset.revision > 1"
      :site="site"
      :asset="asset"
      :may-write="mayWrite"
      @restore="
        (revision) => act(() => site.editor.restoreAsset(asset.id, revision), t('assets.restored', { revision }))
      "
    />
    <p v-if="mayWrite" class="tools">
      <input ref="picker" type="file" class="visually-hidden" tabindex="-1" aria-hidden="true" @change="replace" />
      <ElButton size="small" @click="picker?.click()">{{ t('assets.replaceFile') }}</ElButton>
      <ConfirmButton
        v-if="!isHeld"
        :label="t('common.deleteMore')"
        :question="
          usedBy.length === 0
            ? t('assets.deleteQuestion', { name: asset.name })
            : t('assets.deleteQuestionOlder', { name: asset.name })
        "
        :verb="t('common.deletePermanently')"
        @confirm="remove"
      />
    </p>
  </div>
</template>

<style scoped>
.details {
  display: grid;
  gap: 8px;
  font-size: 13px;
}
.picture {
  position: relative;
  justify-self: start;
  cursor: crosshair;
}
.picture img {
  display: block;
  max-inline-size: 100%;
  max-block-size: 280px;
  background: var(--w-sunk);
}
.focal {
  position: absolute;
  inline-size: 18px;
  block-size: 18px;
  margin: -9px;
  border: 2px solid #fff;
  border-radius: 50%;
  box-shadow: 0 0 0 2px #23607a;
  pointer-events: none;
}
p {
  margin: 0;
}
.name {
  display: grid;
}
.warn {
  color: var(--w-edited);
}
.locales {
  display: flex;
  gap: 12px;
}
.locales [aria-pressed='true'] {
  color: var(--w-accent);
  text-decoration: underline;
  text-underline-offset: 4px;
}
.text {
  display: grid;
  gap: 2px;
}
.said {
  min-block-size: 20px;
}
h3 {
  font-size: 13px;
  color: var(--w-ink2);
}
li {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.tools {
  display: flex;
  gap: 8px;
  margin-block-start: 8px;
}
</style>
