<script setup lang="ts">
import type { Asset } from '@wisteria/client'
import { useEventListener } from '@vueuse/core'
import { decide } from '@wisteria/core'
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, nextTick, onMounted, ref, shallowRef, useTemplateRef, watch } from 'vue'
import AssetDetails from '../assets/AssetDetails.vue'
import UploadList from '../assets/UploadList.vue'
import { fileOf, isPicture } from '../assets/address'
import { createUploads, filesOf } from '../assets/upload'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import { openSite, type Site } from '../session'
import { t } from '../messages'

/** The files of a site, in rows as tall as each other and as wide as they are. Files are dropped anywhere, pasted or picked. */
const props = defineProps<{ site: string }>()
const opened = shallowRef<Site>()
const assets = ref<Asset[]>([])
const next = ref<string | null>(null)
const maxUpload = ref(0)
const search = ref('')
const kind = ref('all')
/** The locale whose missing alternative texts are looked for. */
const lacking = ref('')
const chosen = ref<Asset>()
const trouble = ref<unknown>()
const isLoaded = ref(false)
const isOver = ref(false)
const picker = ref<HTMLInputElement>()
const result = ref('')
const mayWrite = computed(() => opened.value !== undefined && decide(opened.value.caller, 'entry.write').allowed)
const uploads = shallowRef<ReturnType<typeof createUploads>>()

async function load(after?: string): Promise<void> {
  trouble.value = undefined
  try {
    opened.value ??= await openSite(props.site)
    uploads.value ??= createUploads(opened.value, (asset) => {
      assets.value = [asset, ...assets.value]
      chosen.value = asset
      result.value = t('assets.addedNamed', { name: asset.name })
    })
    const page = await opened.value.editor.assets({
      ...(search.value.trim() ? { search: search.value } : {}),
      ...(kind.value !== 'all' ? { accepts: kind.value } : {}),
      ...(lacking.value ? { withoutAlt: lacking.value } : {}),
      ...(after ? { after } : {}),
    })
    assets.value = after ? [...assets.value, ...page.assets] : [...page.assets]
    next.value = page.next
    maxUpload.value = page.maxUpload
    isLoaded.value = true
  } catch (error) {
    trouble.value = error
  }
}

const add = (files: File[]): void => {
  if (mayWrite.value && files.length > 0) uploads.value?.add(files)
}
function onDrop(event: DragEvent): void {
  isOver.value = false
  add(filesOf(event.dataTransfer))
}
const onPaste = (event: ClipboardEvent): void => add(filesOf(event.clipboardData))
function onPick(event: Event): void {
  add([...((event.target as HTMLInputElement).files ?? [])])
  picker.value!.value = ''
}
useEventListener('paste', onPaste)
onMounted(load)

function changed(asset: Asset): void {
  chosen.value = asset
  assets.value = assets.value.map((other) => (other.id === asset.id ? asset : other))
}
function deleted(): void {
  assets.value = assets.value.filter((asset) => asset.id !== chosen.value?.id)
  result.value = t('assets.tookAway', { name: chosen.value?.name ?? '' })
  chosen.value = undefined
}
/** Width by height: the pictures of a row are as wide as makes them equally high, so that none is cropped. */
const ratioOf = (asset: Asset): number =>
  isPicture(asset) && asset.width && asset.height ? asset.width / asset.height : 1
/** Where the details do not stand beside the files, they may be out of sight. */
const details = useTemplateRef<HTMLElement>('details')
watch(chosen, (now, before) => {
  if (now && now.id !== before?.id) void nextTick(() => details.value?.scrollIntoView({ block: 'nearest' }))
})
const withoutAlt = computed(
  () =>
    assets.value.filter((asset) => isPicture(asset) && !asset.alt[opened.value?.settings.defaultLocale ?? '']).length,
)
const kinds = [
  { value: 'all', label: t('assets.everything') },
  { value: 'image/*', label: t('assets.pictures') },
  { value: 'video/*,audio/*', label: t('assets.filmAndSound') },
  { value: 'application/*,text/*', label: t('assets.documents') },
]
</script>

<template>
  <main
    class="work"
    :class="{ over: isOver && mayWrite }"
    data-region="work"
    @dragover.prevent="isOver = true"
    @dragleave="isOver = false"
    @drop.prevent="onDrop"
  >
    <section>
      <h1 class="visually-hidden">{{ t('assets.assets') }}</h1>
      <form class="find" role="search" @submit.prevent="load()">
        <ElInput
          v-model="search"
          clearable
          :placeholder="t('assets.findPlaceholder')"
          :aria-label="t('assets.findFiles')"
          @keydown.enter.prevent="load()"
          @clear="load()"
        />
        <ElSelect v-model="kind" class="kind" :aria-label="t('assets.kindOfFile')" @change="load()">
          <ElOption v-for="item in kinds" :key="item.value" :value="item.value" :label="item.label" />
        </ElSelect>
        <ElSelect
          v-model="lacking"
          class="lacking"
          clearable
          :placeholder="t('assets.anyTexts')"
          :aria-label="t('assets.missingTexts')"
          @change="load()"
        >
          <ElOption
            v-for="locale in opened?.settings.locales"
            :key="locale.tag"
            :value="locale.tag"
            :label="t('assets.withoutAlternativeIn', { locale: locale.tag })"
          />
        </ElSelect>
      </form>
      <UploadList v-if="uploads" :uploads="uploads.uploads" />
      <PageTrouble v-if="trouble" :error="trouble" @again="load()" />
      <p v-else-if="isLoaded && assets.length === 0" class="content empty">
        {{ search || kind !== 'all' || lacking ? t('assets.nothingFound') : t('assets.noneYet', { limit: maxUpload }) }}
      </p>
      <ul v-else class="assets">
        <li v-for="asset in assets" :key="asset.id" :style="{ '--ratio': ratioOf(asset) }">
          <button
            class="plain asset"
            type="button"
            :aria-pressed="chosen?.id === asset.id"
            :aria-label="asset.name"
            @click="chosen = asset"
          >
            <img v-if="isPicture(asset)" :src="fileOf(asset, { h: 280 })" alt="" loading="lazy" />
            <span v-else class="sheet">{{ asset.mediaType.split('/')[1] }}</span>
            <span class="name">{{ asset.name }}</span>
          </button>
        </li>
      </ul>
      <p v-if="next">
        <ElButton @click="load(next)">{{ t('common.showMore') }}</ElButton>
      </p>
    </section>
    <aside ref="details" class="margin" :class="{ none: !chosen }" :aria-label="t('assets.aboutChosen')">
      <AssetDetails
        v-if="chosen && opened"
        :site="opened"
        :asset="chosen"
        :may-write="mayWrite"
        @changed="changed"
        @deleted="deleted"
      />
      <p v-else class="quiet">{{ t('assets.chooseOne') }}</p>
    </aside>
  </main>
  <StripBar :result="result">
    <template #start
      ><span>{{ t(next ? 'assets.filesAtLeast' : 'assets.fileCount', { n: assets.length }) }}</span></template
    >
    <template #middle
      ><span v-if="withoutAlt > 0" class="quiet">{{ t('assets.withoutAlternative', { count: withoutAlt }) }}</span
      ><span class="quiet">{{ t('assets.upTo', { limit: maxUpload }) }}</span></template
    >
    <template #end>
      <input
        ref="picker"
        type="file"
        multiple
        class="visually-hidden"
        tabindex="-1"
        aria-hidden="true"
        @change="onPick"
      />
      <ElButton v-if="mayWrite" type="primary" @click="picker?.click()">{{ t('assets.addFiles') }}</ElButton>
    </template>
  </StripBar>
</template>

<style scoped>
.work {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  gap: 24px;
  padding: 24px 24px 0;
  overflow: auto;
}
.work.over {
  box-shadow: inset 0 0 0 3px var(--w-accent);
}
.find {
  display: flex;
  gap: 8px;
  max-inline-size: 880px;
  margin-block-end: 12px;
}
.kind {
  flex: none;
  inline-size: 168px;
}
.lacking {
  flex: none;
  inline-size: 200px;
}
.assets {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  list-style: none;
  margin: 0 0 24px;
  padding: 0;
}
.assets li {
  flex: var(--ratio) 1 calc(var(--ratio) * 140px);
  min-inline-size: 72px;
  max-inline-size: calc(var(--ratio) * 220px);
}
.assets::after {
  content: '';
  flex-grow: 9999;
}
.asset {
  display: block;
  inline-size: 100%;
}
.asset img {
  display: block;
  inline-size: 100%;
  aspect-ratio: var(--ratio);
  background: var(--w-sunk);
}
.sheet {
  display: grid;
  place-items: center;
  aspect-ratio: 1;
  background: var(--w-sunk);
  color: var(--w-ink2);
}
.asset[aria-pressed='true'] img,
.asset[aria-pressed='true'] .sheet {
  outline: 3px solid var(--w-accent);
  outline-offset: 1px;
}
.name {
  display: block;
  padding-block: 4px;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.margin {
  position: sticky;
  inset-block-start: 0;
  align-self: start;
  max-block-size: calc(100vh - 120px);
  overflow: auto;
  padding-block-end: 24px;
}
.empty {
  padding: 40px 0;
}
@media (max-width: 900px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
    grid-auto-rows: max-content;
    gap: 0;
    padding: 16px 16px 0;
  }
  .find {
    flex-wrap: wrap;
  }
  .find > :first-child {
    flex: 1 1 100%;
  }
  .kind,
  .lacking {
    flex: 1;
  }
  /* The details of the chosen file come before the files. */
  .margin {
    position: static;
    order: -1;
    max-block-size: none;
    overflow: visible;
  }
  .margin.none {
    display: none;
  }
}
</style>
