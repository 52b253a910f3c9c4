<script setup lang="ts">
import type { Piece } from '@wisteria/core'

/** A text with its removed and added words, in reading order. */
const { pieces } = defineProps<{ pieces: readonly Piece[] }>()
</script>

<template>
  <span class="words"
    ><template v-for="(piece, index) in pieces" :key="index"
      ><ins v-if="piece.is === 'added'">{{ piece.text }}</ins
      ><del v-else-if="piece.is === 'removed'">{{ piece.text }}</del
      ><template v-else>{{ piece.text }}</template></template
    ></span
  >
</template>

<style scoped>
.words {
  white-space: pre-wrap;
}
/* With a space, or the last removed letter and the first added one would read as one word. */
del + ins,
ins + del {
  margin-inline-start: 4px;
}
</style>
