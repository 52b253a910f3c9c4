<script setup lang="ts">
import { ArrowDown, Bottom, Top } from '@element-plus/icons-vue'
import { ElIcon } from 'element-plus'
import { computed } from 'vue'
import { t } from '../messages'

/** The head of a block, or of an element of a repeated group: its kind, and what can be done with it. Keys are its list's. */
const { firstWords, disabled = false } = defineProps<{
  label: string
  icon?: string | undefined
  /** "block" or "item", in the language of the console. */
  noun: string
  number: number
  count: number
  /** Whether it is known by its number, and not by its kind. */
  isNumbered: boolean
  /** The first words in it, if it is folded. */
  firstWords: string | undefined
  disabled?: boolean | undefined
  mayDuplicate: boolean
}>()
const emit = defineEmits<{
  toggle: []
  copy: []
  duplicate: []
  cut: []
  move: [step: 1 | -1]
  remove: []
}>()
const isFolded = computed(() => firstWords !== undefined)
</script>

<template>
  <header
    tabindex="0"
    role="group"
    :draggable="!disabled"
    :aria-label="t('controls.itemName', { label, noun, number, count })"
  >
    <span class="what">
      <button
        class="plain"
        type="button"
        tabindex="-1"
        :aria-expanded="!isFolded"
        :aria-label="t(isFolded ? 'controls.unfoldItem' : 'controls.foldItem', { noun, number })"
        @click="emit('toggle')"
      >
        <ElIcon class="sign" :class="{ folded: isFolded }" aria-hidden="true"><ArrowDown /></ElIcon>
      </button>
      <span v-if="icon" class="icon" aria-hidden="true">{{ icon }}</span>
      <span class="kind">{{ isNumbered ? number : label }}</span>
      <span v-if="isFolded" class="first" dir="auto">{{ firstWords }}</span>
    </span>
    <span class="tools">
      <button class="plain" type="button" :aria-label="t('controls.copyItem', { noun, number })" @click="emit('copy')">
        {{ t('controls.copy') }}
      </button>
      <button
        class="plain"
        type="button"
        :disabled="disabled || !mayDuplicate"
        :aria-label="t('controls.duplicateItem', { noun, number })"
        @click="emit('duplicate')"
      >
        {{ t('common.duplicate') }}
      </button>
      <button
        class="plain"
        type="button"
        :disabled="disabled"
        :aria-label="t('controls.cutItem', { noun, number })"
        @click="emit('cut')"
      >
        {{ t('controls.cut') }}
      </button>
      <button
        class="plain"
        type="button"
        :disabled="disabled || number === 1"
        :aria-label="t('controls.moveItemUp', { noun, number })"
        @click="emit('move', -1)"
      >
        <ElIcon aria-hidden="true"><Top /></ElIcon>
      </button>
      <button
        class="plain"
        type="button"
        :disabled="disabled || number === count"
        :aria-label="t('controls.moveItemDown', { noun, number })"
        @click="emit('move', 1)"
      >
        <ElIcon aria-hidden="true"><Bottom /></ElIcon>
      </button>
      <button
        class="plain"
        type="button"
        :disabled="disabled"
        :aria-label="t('controls.removeItem', { noun, number })"
        @click="emit('remove')"
      >
        {{ t('common.remove') }}
      </button>
    </span>
  </header>
</template>

<style scoped>
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
  min-block-size: 28px;
  margin-block-end: 4px;
  font-size: 12px;
  line-height: 20px;
  color: var(--w-ink2);
}
.kind {
  font-size: 14px;
  font-weight: 600;
  color: var(--w-ink);
}
.tools {
  display: flex;
  gap: 12px;
  opacity: 0;
}
.block:hover > header .tools,
.block:focus-within > header .tools {
  opacity: 1;
}
.what {
  display: flex;
  gap: 6px;
  min-inline-size: 0;
}
.first {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--w-ink2);
}
.sign {
  display: inline-block;
}
.sign.folded {
  transform: rotate(-90deg);
}
[dir='rtl'] .sign.folded {
  transform: rotate(90deg);
}
header[draggable='true'] {
  cursor: grab;
}
.tools :disabled {
  visibility: hidden;
}
</style>
