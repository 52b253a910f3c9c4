<script setup lang="ts">
import { ElCheckbox, ElCheckboxGroup } from 'element-plus'

/** The locales that something is done in. */
const { tags } = defineProps<{ tags: readonly string[] }>()
const chosen = defineModel<readonly string[]>({ required: true })
/** In the site's order, not in the order of choosing. */
const choose = (now: unknown): void => void (chosen.value = tags.filter((tag) => (now as string[]).includes(tag)))
defineSlots<{
  mark?: (of: { readonly tag: string }) => unknown
  /** The text after the tag of a locale. */
  note?: (of: { readonly tag: string }) => unknown
}>()
</script>

<template>
  <ElCheckboxGroup :model-value="[...chosen]" @update:model-value="choose">
    <ElCheckbox v-for="tag in tags" :key="tag" :value="tag"
      ><slot name="mark" :tag="tag" /> {{ tag }} <slot name="note" :tag="tag"
    /></ElCheckbox>
  </ElCheckboxGroup>
</template>
