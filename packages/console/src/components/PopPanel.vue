<script setup lang="ts">
import { ElPopover, type Placement } from 'element-plus'
import { useTemplateRef } from 'vue'

/** A panel beside a button: it takes the focus when it opens, and gives it back when it closes. */
const isOpen = defineModel<boolean>({ default: false })
const {
  label,
  width,
  placement = 'bottom-start',
} = defineProps<{
  label: string
  /** In pixels. */
  width: number
  placement?: Placement
}>()

const panel = useTemplateRef<HTMLElement>('panel')
let opener: HTMLElement | undefined

function noteOpener(): void {
  opener = document.activeElement instanceof HTMLElement ? document.activeElement : undefined
}
/** Somebody who was faster than the panel is in it already, and stays where they are. */
function takeFocus(): void {
  if (panel.value?.contains(document.activeElement)) return
  const first = panel.value?.querySelector<HTMLElement>('input, textarea, button, a[href]')
  ;(first ?? panel.value)?.focus()
}
/** A list that is open in it closes first. */
function onEscape(event: KeyboardEvent): void {
  if ((event.target as HTMLElement).getAttribute('aria-expanded') === 'true') return
  event.stopPropagation()
  isOpen.value = false
}
/** A focus that has moved elsewhere stays there. */
function giveBack(): void {
  const now = document.activeElement
  if (now === document.body || panel.value?.contains(now)) opener?.focus()
}
</script>

<template>
  <ElPopover
    v-model:visible="isOpen"
    trigger="click"
    :width="width"
    :placement="placement"
    @before-enter="noteOpener"
    @after-enter="takeFocus"
    @before-leave="giveBack"
  >
    <template #reference><slot name="reference" /></template>
    <div ref="panel" role="dialog" :aria-label="label" tabindex="-1" class="pop-panel" @keydown.esc.capture="onEscape">
      <slot />
    </div>
  </ElPopover>
</template>

<style scoped>
.pop-panel:focus {
  outline: none;
}
</style>
