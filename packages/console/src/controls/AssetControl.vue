<script setup lang="ts">
import { acceptsMediaType, decide, makeItemId, shapeOf } from '@wisteria/core'
import type { Asset } from '@wisteria/client'
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref, watch } from 'vue'
import AltText from '../assets/AltText.vue'
import UploadList from '../assets/UploadList.vue'
import { fileOf, isPicture } from '../assets/address'
import { createUploads, filesOf } from '../assets/upload'
import { useWorkingCopy } from '../editor/workingCopy'
import type { ControlProps } from './control'
import { moved, random } from './reordering'
import { t } from '../messages'

/** Files of the site: picked by name, shown as they are. */
const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()
const { site } = useWorkingCopy()

interface Item {
  readonly id: string
  readonly value: string
}
const assetsById = reactive(new Map<string, Asset | null>())
const matches = ref<Asset[]>([])
const isSearching = ref(false)
const accepts = computed(() => {
  const shape = shapeOf(props.field)
  return shape.is === 'asset' ? shape.accepts : ['image/*']
})
const isMany = computed(() => props.field.many)
const items = computed<readonly Item[]>(() =>
  isMany.value
    ? Array.isArray(props.value)
      ? (props.value as Item[])
      : []
    : typeof props.value === 'string'
      ? [{ id: 'one', value: props.value }]
      : [],
)

watch(
  items,
  async (now) => {
    for (const { value: id } of now)
      if (!assetsById.has(id)) assetsById.set(id, await site.editor.asset(id).catch(() => null))
  },
  { immediate: true },
)

async function search(words: string): Promise<void> {
  isSearching.value = true
  const { assets } = await site.editor
    .assets({
      ...(accepts.value.length > 0 ? { accepts: accepts.value.join(',') } : {}),
      ...(words ? { search: words } : {}),
    })
    .catch(() => ({ assets: [] }))
  matches.value = [...assets]
  for (const asset of assets) assetsById.set(asset.id, asset)
  isSearching.value = false
}

function choose(id: string | undefined): void {
  if (!isMany.value) return emit('change', id || undefined)
  if (id && !items.value.some((item) => item.value === id))
    emit('change', [...items.value, { id: makeItemId({ random }), value: id }])
}

const mayAdd = computed(() => !props.disabled && decide(site.caller, 'entry.write').allowed)
const isOver = ref(false)
const picker = ref<HTMLInputElement>()
const wrong = ref('')
const { uploads, add } = createUploads(site, (asset) => {
  assetsById.set(asset.id, asset)
  if (acceptsMediaType(accepts.value, asset.mediaType)) choose(asset.id)
  else
    wrong.value = t('controls.assetNotTaken', {
      name: asset.name,
      field: props.field.label,
      accepts: accepts.value.join(', '),
    })
})
function take(files: File[]): void {
  wrong.value = ''
  if (mayAdd.value) add(isMany.value ? files : files.slice(0, 1))
}
function onDrop(event: DragEvent): void {
  isOver.value = false
  take(filesOf(event.dataTransfer))
}
function onPaste(event: ClipboardEvent): void {
  const files = filesOf(event.clipboardData)
  if (files.length > 0) event.preventDefault()
  take(files)
}
function onPick(event: Event): void {
  take([...((event.target as HTMLInputElement).files ?? [])])
  picker.value!.value = ''
}

function remove(id: string): void {
  const left = items.value.filter((item) => item.id !== id)
  emit('change', isMany.value && left.length > 0 ? left : undefined)
}

function move(index: number, step: 1 | -1): void {
  const next = isMany.value ? moved(items.value, index, step) : undefined
  if (next) emit('change', next)
}
const textLocale = computed(() => props.formLocale ?? props.locale)
const pictureOf = (id: string): Asset | undefined => {
  const asset = assetsById.get(id)
  return asset && isPicture(asset) ? asset : undefined
}
const nameOf = (id: string): string => assetsById.get(id)?.name ?? (assetsById.has(id) ? t('controls.assetGone') : '…')
const missing = (id: string): string[] => {
  const alt = assetsById.get(id)?.alt
  return alt && accepts.value.some((type) => type.startsWith('image/'))
    ? site.settings.locales.map(({ tag }) => tag).filter((tag) => !(tag in alt))
    : []
}
</script>

<template>
  <div
    class="holder"
    :class="{ over: isOver && mayAdd }"
    @dragover.prevent="isOver = true"
    @dragleave="isOver = false"
    @drop.prevent.stop="onDrop"
    @paste="onPaste"
  >
    <ul v-if="items.length > 0" class="assets">
      <li
        v-for="(item, index) in items"
        :key="item.id"
        tabindex="0"
        :aria-label="nameOf(item.value)"
        @keydown.alt.left.prevent="move(index, -1)"
        @keydown.alt.up.prevent="move(index, -1)"
        @keydown.alt.right.prevent="move(index, 1)"
        @keydown.alt.down.prevent="move(index, 1)"
      >
        <img
          v-if="pictureOf(item.value)"
          :src="fileOf(pictureOf(item.value)!, { h: 192 })"
          :alt="pictureOf(item.value)!.alt[textLocale] ?? ''"
        />
        <span class="head">
          <span
            class="name"
            :title="
              missing(item.value).length > 0
                ? t('assets.noAlternative', { locales: missing(item.value).join(', ') })
                : ''
            "
            >{{ nameOf(item.value) }}</span
          >
          <button
            class="plain link"
            type="button"
            :disabled="disabled"
            :aria-label="t('controls.removeNamed', { name: nameOf(item.value) })"
            @click="remove(item.id)"
          >
            {{ t('common.remove') }}
          </button>
        </span>
        <AltText
          v-if="pictureOf(item.value)"
          :site="site"
          :asset="pictureOf(item.value)!"
          :locale="textLocale"
          @changed="(asset) => assetsById.set(asset.id, asset)"
        />
      </li>
    </ul>
    <ElSelect
      v-if="isMany || items.length === 0"
      :id="id"
      class="pick"
      filterable
      remote
      :remote-method="search"
      :loading="isSearching"
      :model-value="undefined"
      :placeholder="isMany ? t('controls.addFile') : t('controls.chooseFile')"
      :disabled="disabled"
      :no-data-text="t('controls.noFileOfKind')"
      @update:model-value="choose"
      @visible-change="(open: boolean) => open && search('')"
    >
      <ElOption v-for="candidate in matches" :key="candidate.id" :value="candidate.id" :label="candidate.name">
        <span class="option"
          ><img v-if="candidate.mediaType.startsWith('image/')" :src="fileOf(candidate, { h: 56 })" alt="" />
          {{ candidate.name }}
          <span class="quiet">{{
            candidate.width ? `${candidate.width} × ${candidate.height}` : candidate.mediaType
          }}</span></span
        >
      </ElOption>
    </ElSelect>
    <template v-if="mayAdd && (isMany || items.length === 0)">
      <input
        ref="picker"
        type="file"
        class="visually-hidden"
        tabindex="-1"
        aria-hidden="true"
        :multiple="isMany"
        :accept="accepts.join(',')"
        @change="onPick"
      />
      <ElButton class="add" @click="picker?.click()">{{ t('controls.addFile') }}</ElButton>
    </template>
    <UploadList :uploads="uploads" />
    <p v-if="wrong" class="error-text" role="alert">{{ wrong }}</p>
  </div>
</template>

<style scoped>
.assets {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}
.assets li {
  display: grid;
  align-content: start;
  gap: 4px;
  inline-size: 240px;
  font-size: 12px;
}
.assets img {
  block-size: 112px;
  max-inline-size: 100%;
  inline-size: auto;
  justify-self: start;
  background: var(--w-sunk);
}
.head {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
.link {
  color: var(--w-accent);
  text-decoration: underline;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.holder.over {
  outline: 2px dashed var(--w-accent);
  outline-offset: 4px;
}
.add {
  margin-inline-start: 8px;
}
.pick {
  inline-size: 320px;
}
.option {
  display: flex;
  align-items: center;
  gap: 8px;
}
.option img {
  block-size: 28px;
}
</style>
