<script setup lang="ts">
import type { SegmentText } from '@wisteria/core'
import type { UnitView } from '@wisteria/core'

/** A text with its codes: enclosed text is shown as it will look, between the numbers of its code. */
const { text, codes } = defineProps<{ text: SegmentText; codes: UnitView['codes'] }>()
const classOf = (code: string): string => codes[code]?.type ?? ''
</script>

<template>
  <template v-for="(piece, index) in text" :key="index"
    ><template v-if="typeof piece === 'string'">{{ piece }}</template
    ><span v-else-if="piece.inside" :class="classOf(piece.code)"
      ><span class="code" aria-hidden="true">{{ piece.code }}</span
      ><CodedText :text="piece.inside" :codes="codes" /><span class="code" aria-hidden="true">{{
        piece.code
      }}</span></span
    ><span v-else class="code alone" aria-hidden="true">{{ piece.code }}</span></template
  >
</template>

<style scoped>
.code {
  padding-inline: 3px;
  margin-inline: 1px;
  border-radius: 2px;
  background: var(--w-sunk);
  color: var(--w-ink2);
  font: 11px/14px var(--w-interface);
  vertical-align: 1px;
}
.strong {
  font-weight: 600;
}
.emphasis {
  font-style: italic;
}
.delete {
  text-decoration: line-through;
}
.inlineCode {
  font-family: var(--w-code);
  font-size: 85%;
}
.link {
  text-decoration: underline;
  text-underline-offset: 3px;
}
</style>
