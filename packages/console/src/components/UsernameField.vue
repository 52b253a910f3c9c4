<script setup lang="ts">
/** Tells password managers whose password the form is about; it is neither visible nor focusable. */
const { email } = defineProps<{ email: string }>()
</script>

<template>
  <input
    type="text"
    class="visually-hidden"
    :value="email"
    autocomplete="username"
    tabindex="-1"
    readonly
    aria-hidden="true"
  />
</template>
