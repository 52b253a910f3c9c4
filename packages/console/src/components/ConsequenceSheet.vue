<script setup lang="ts">
import { Close } from '@element-plus/icons-vue'
import { ElButton, ElDrawer } from 'element-plus'
import { ref, useTemplateRef, watch } from 'vue'
import { t } from '../messages'

/** The sheet that opens upward from the strip: changes, effects, blocking problems. */
const open = defineModel<boolean>({ required: true })
const {
  title,
  fits = false,
  stays = false,
} = defineProps<{
  title: string
  /** Whether it is as high as its content needs, and no higher. */
  fits?: boolean
  /** Whether it closes by its own buttons alone. */
  stays?: boolean
}>()
const emit = defineEmits<{ opened: [] }>()
/** A sheet that was never opened is not in the page, so that it cannot be mistaken for an open one. */
const wasOpened = ref(false)
watch(open, (isOpen) => (wasOpened.value ||= isOpen), { immediate: true })

const heading = useTemplateRef<HTMLElement>('heading')
let opener: Element | null = null
/** A menu that opened the sheet gives the focus back to its button: the focus is taken from there, and returns to it. */
function takeFocus(): void {
  const sheet = heading.value?.closest('.sheet')
  const now = document.activeElement
  opener = sheet?.contains(now) ? null : now
  if (opener) heading.value?.focus()
  emit('opened')
}
function giveBack(): void {
  if (opener instanceof HTMLElement && document.activeElement === document.body) opener.focus()
}
</script>

<template>
  <ElDrawer
    v-if="wasOpened"
    v-model="open"
    direction="btt"
    :size="fits ? 'auto' : '76%'"
    :title="title"
    :with-header="false"
    class="sheet"
    :close-on-click-modal="!stays"
    :close-on-press-escape="!stays"
    :append-to-body="true"
    :lock-scroll="false"
    @opened="takeFocus"
    @closed="giveBack"
  >
    <div class="sheet-head">
      <h2 ref="heading" tabindex="-1">{{ title }}</h2>
      <ElButton v-if="!stays" text :icon="Close" :aria-label="t('common.close')" @click="open = false" />
    </div>
    <div class="sheet-body"><slot /></div>
    <div class="sheet-foot"><slot name="foot" /></div>
  </ElDrawer>
</template>

<style>
.sheet.el-drawer {
  max-block-size: 76%;
}
.sheet .el-drawer__body {
  display: flex;
  flex-direction: column;
  padding: 0;
}
.sheet-head {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 16px;
  padding: 12px 16px 12px 24px;
}
.sheet-head h2 {
  font: 600 20px/28px var(--w-content);
}
.sheet-head h2:focus {
  outline: none;
}
.sheet-body {
  flex: 1;
  padding: 0 24px 24px;
  overflow: auto;
}
/* What most sheets have: what changes beside what it affects, under small headings, in plain lists. */
.sheet-body .columns {
  display: grid;
  grid-template-columns: 7fr 5fr;
  gap: 40px;
}
.sheet-body h3 {
  margin: 16px 0 8px;
  font-size: 13px;
  color: var(--w-ink2);
}
.sheet-body :is(ul, ol) {
  list-style: none;
  margin: 0;
  padding: 0;
}
.sheet-body .gone {
  text-decoration: line-through;
  color: var(--w-ink2);
}
.sheet-foot {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 16px;
  min-block-size: 52px;
  padding: 8px 24px;
  border-block-start: 1px solid var(--w-hair);
}
</style>
