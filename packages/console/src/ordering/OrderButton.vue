<script setup lang="ts">
import type { NewOrder } from '@wisteria/client'
import { decide, type ConnectorView, type TranslationBoard } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { t } from '../messages'
import type { Site } from '../session'
import OrderSheet from './OrderSheet.vue'

/** Orders translations, where there is a connector and the right for it: of a board, or of one entry. */
const props = defineProps<{
  site: Site
  board?: TranslationBoard
  /** The entries that the board is limited to. */
  filter?: Pick<NewOrder, 'type' | 'where' | 'search'>
  entry?: { readonly id: string; readonly title: string }
  /** The locale of that entry's translation. */
  into?: string
}>()
const router = useRouter()
const connectors = shallowRef<readonly ConnectorView[]>([])
const isOpen = ref(false)
const may = computed(
  () => decide(props.site.caller, 'entry.translate', props.into === undefined ? {} : { locales: [props.into] }).allowed,
)
onMounted(async () => {
  const found = await props.site.editor.ordering.connectors().catch(() => ({ connectors: [] }))
  connectors.value = found.connectors.filter(
    ({ enabled, locales }) => enabled && (props.into === undefined || (locales?.includes(props.into) ?? true)),
  )
})
const ordered = () => router.push({ name: 'orders', params: { site: props.site.name } })
</script>

<template>
  <template v-if="may && connectors.length > 0">
    <ElButton @click="isOpen = true">{{ t('ordering.orderMore') }}</ElButton>
    <OrderSheet
      v-model="isOpen"
      :site="site"
      :connectors="connectors"
      :board="board"
      :filter="filter"
      :entry="entry"
      :into="into"
      @ordered="ordered"
    />
  </template>
</template>
