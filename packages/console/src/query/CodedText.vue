<script setup lang="ts">
import { computed } from 'vue'

/** A text of a document, which is in English in every language, with parts in backticks as code. */
const { text } = defineProps<{ text: string }>()
const pieces = computed(() => text.split('`').map((piece, index) => ({ piece, isCode: index % 2 === 1 })))
</script>

<template>
  <bdi
    ><template v-for="({ piece, isCode }, index) in pieces" :key="index"
      ><code v-if="isCode" dir="ltr">{{ piece }}</code
      ><template v-else>{{ piece }}</template></template
    ></bdi
  >
</template>
