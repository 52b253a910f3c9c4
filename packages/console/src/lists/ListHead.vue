<script setup lang="ts">
import { decide, eachField, kindOf, type ContentType, type ListAsks } from '@wisteria/core'
import { ElButton, ElCheckbox, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import PopPanel from '../components/PopPanel.vue'
import type { Site } from '../session'
import { newest } from './asks'
import { messageOf, t } from '../messages'

/** The head of a list: saving it as a view, its columns, its order. */
const { site, type, asks } = defineProps<{
  site: Site
  type: ContentType | undefined
  asks: Omit<ListAsks, 'type'>
}>()
const emit = defineEmits<{ ask: [change: Partial<ListAsks>]; changed: [] }>()

const sorts = computed(() => {
  const named: { value: string; label: string }[] = [
    { value: newest, label: t('lists.newestFirst') },
    { value: 'entry.updated', label: t('lists.oldestFirst') },
  ]
  if (type)
    eachField(type, (field, on) => {
      const isSingle = !field.many && on.every((group) => !group.many)
      const isOrdered = !['reference', 'presence', undefined].includes(kindOf(field).comparison)
      if (!isSingle || !isOrdered) return
      const path = [...on, field].map((step) => step.name).join('.')
      const label = [...on, field].map((step) => step.label).join(', ')
      named.push(
        { value: path, label: t('lists.rising', { field: label }) },
        { value: `-${path}`, label: t('lists.falling', { field: label }) },
      )
    })
  return named
})
/** Title and path stand in every row already. */
const columns = computed(
  () =>
    type?.fields.filter((field) => !['block', 'group', 'slug'].includes(field.kind) && field.name !== type.namedBy) ??
    [],
)
const maxColumns = 6
function setColumns(names: string[]): void {
  const order = type?.fields.map((field) => field.name) ?? []
  emit('ask', { columns: order.filter((name) => names.includes(name)) })
}

const isKeeping = ref(false)
const name = ref('')
const isShared = ref(false)
const refused = ref('')
const mayShare = decide(site.caller, 'entry.write').allowed
async function keep(): Promise<void> {
  refused.value = ''
  try {
    await site.editor.saveView({
      name: name.value,
      shared: isShared.value,
      asks: { ...(type ? { type: type.name } : {}), ...asks },
    })
    isKeeping.value = false
    name.value = ''
    emit('changed')
  } catch (error) {
    refused.value = messageOf(error)
  }
}
</script>

<template>
  <div class="head">
    <PopPanel v-model="isKeeping" :label="t('lists.saveView')" :width="300">
      <template #reference
        ><ElButton size="small">{{ t('lists.saveView') }}</ElButton></template
      >
      <form class="keep" @submit.prevent="keep">
        <ElInput v-model="name" :placeholder="t('lists.aName')" :aria-label="t('lists.nameOfView')" maxlength="80" />
        <ElCheckbox v-if="mayShare" v-model="isShared">{{ t('lists.forEverybody') }}</ElCheckbox>
        <p v-if="refused" class="error-text">{{ refused }}</p>
        <span
          ><ElButton size="small" native-type="submit" :disabled="name.trim() === ''">{{
            t('lists.save')
          }}</ElButton></span
        >
      </form>
    </PopPanel>
    <span class="gap" />
    <PopPanel v-if="type && columns.length > 0" :label="t('lists.columns')" :width="260">
      <template #reference
        ><ElButton size="small">{{
          asks.columns?.length ? t('lists.columnsCount', { count: asks.columns.length }) : t('lists.columns')
        }}</ElButton></template
      >
      <ElCheckbox
        v-for="field in columns"
        :key="field.id"
        class="column"
        :model-value="asks.columns?.includes(field.name) ?? false"
        :disabled="!asks.columns?.includes(field.name) && (asks.columns?.length ?? 0) >= maxColumns"
        @change="
          (on) =>
            setColumns(
              on ? [...(asks.columns ?? []), field.name] : (asks.columns ?? []).filter((name) => name !== field.name),
            )
        "
        >{{ field.label }}</ElCheckbox
      >
      <p class="quiet note">{{ t('lists.atMost', { max: maxColumns }) }}</p>
    </PopPanel>
    <ElSelect
      v-if="site.settings.locales.length > 1"
      :model-value="asks.locale ?? site.settings.defaultLocale"
      size="small"
      class="locale"
      :aria-label="t('lists.locale')"
      @update:model-value="
        (locale: string) => emit('ask', { locale: locale === site.settings.defaultLocale ? undefined : locale })
      "
    >
      <ElOption v-for="locale in site.settings.locales" :key="locale.tag" :value="locale.tag" :label="locale.label" />
    </ElSelect>
    <ElSelect
      :model-value="asks.sort ?? newest"
      size="small"
      class="sort"
      :aria-label="t('lists.order')"
      @update:model-value="(sort: string) => emit('ask', { sort: sort === newest ? undefined : sort })"
    >
      <ElOption v-for="sort in sorts" :key="sort.value" :value="sort.value" :label="sort.label" />
    </ElSelect>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-block-end: 8px;
}
.gap {
  flex: 1;
}
.locale {
  inline-size: 128px;
}
.sort {
  inline-size: 200px;
}
.keep {
  display: grid;
  gap: 8px;
}
.column {
  display: flex;
}
.note {
  margin: 4px 0 0;
  font-size: 12px;
}
</style>
