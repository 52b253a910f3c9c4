<script setup lang="ts">
import { fieldKinds } from '@wisteria/core'
import { ElOption, ElSelect } from 'element-plus'

/** Chooses the kind of a field, by label; each has a sentence of description. */
const kind = defineModel<string>({ required: true })
</script>

<template>
  <ElSelect v-model="kind" filterable>
    <ElOption
      v-for="{ name, label, summary } in fieldKinds"
      :key="name"
      :value="name"
      :label="label"
      :title="summary"
    />
  </ElSelect>
</template>
