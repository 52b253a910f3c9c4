<script setup lang="ts">
import { fieldKinds } from '@wisteria/core'
import { ElOption, ElSelect } from 'element-plus'
import { kindLabel } from '../messages'

/** Chooses the kind of a field, by label; each has a sentence of description. */
const kind = defineModel<string>({ required: true })
</script>

<template>
  <ElSelect v-model="kind" filterable>
    <ElOption
      v-for="kindOfField in fieldKinds"
      :key="kindOfField.name"
      :value="kindOfField.name"
      :label="kindLabel(kindOfField)"
      :title="kindOfField.summary"
    />
  </ElSelect>
</template>
