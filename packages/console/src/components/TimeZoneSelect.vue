<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus'

/** A time zone, found by typing a part of its name. Other choices, such as that of the browser, are its content. */
const zone = defineModel<string>({ required: true })
const zones = Intl.supportedValuesOf('timeZone')
</script>

<template>
  <ElSelect v-model="zone" filterable default-first-option>
    <slot />
    <ElOption v-for="name in zones" :key="name" :value="name" :label="name" />
  </ElSelect>
</template>
