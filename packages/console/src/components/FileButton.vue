<script setup lang="ts">
import { ElButton } from 'element-plus'
import { useTemplateRef } from 'vue'

/** A button that lets somebody choose a file. Attributes are the button’s. */
defineOptions({ inheritAttrs: false })
const { label, accept, disabled = false } = defineProps<{ label: string; accept: string; disabled?: boolean }>()
const emit = defineEmits<{ choose: [file: File] }>()
const picker = useTemplateRef<HTMLInputElement>('picker')

function take({ target }: Event): void {
  const input = target as HTMLInputElement
  const file = input.files?.[0]
  // The same file can be chosen again once it was mended.
  input.value = ''
  if (file) emit('choose', file)
}
</script>

<template>
  <span>
    <ElButton v-bind="$attrs" :disabled="disabled" @click="picker?.click()">{{ label }}</ElButton>
    <input
      ref="picker"
      type="file"
      class="visually-hidden"
      tabindex="-1"
      :accept="accept"
      :aria-label="label"
      @change="take"
    />
  </span>
</template>
