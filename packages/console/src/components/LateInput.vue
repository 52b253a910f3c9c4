<script setup lang="ts">
import { ElInput } from 'element-plus'
import { ref, watch } from 'vue'

/** A text that counts once it is written: when the field is left, or by Enter. Attributes are the field’s. */
const { value } = defineProps<{ value: string }>()
const emit = defineEmits<{ change: [value: string] }>()
const text = ref(value)
watch(
  () => value,
  (now) => (text.value = now),
)
</script>

<template>
  <ElInput v-model="text" @change="emit('change', $event)" />
</template>
