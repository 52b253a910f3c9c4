<script setup lang="ts">
import type { TranslationBoard } from '@wisteria/core'
import { ElOption, ElSelect } from 'element-plus'
import { t } from '../messages'

/** One of the types on the board, or all of them: `*`. */
const type = defineModel<string>({ required: true })
defineProps<{ board: TranslationBoard }>()
</script>

<template>
  <label class="choice"
    >{{ t('translating.type') }}
    <ElSelect v-model="type">
      <ElOption value="*" :label="t('translating.allTypes')" />
      <ElOption v-for="each in board.types" :key="each.type" :value="each.type" :label="each.label" />
    </ElSelect>
  </label>
</template>
