<script setup lang="ts">
import { exampleConditions, type ContentType } from '@wisteria/core'
import { QuestionFilled } from '@element-plus/icons-vue'
import { ElButton, ElIcon } from 'element-plus'
import { computed, ref } from 'vue'
import PopPanel from './PopPanel.vue'
import { t } from '../messages'
import type { Site } from '../session'

/** The forms of a condition, with examples for these types to try. */
const { site, types } = defineProps<{ site: Site; types: readonly ContentType[] }>()
const emit = defineEmits<{ use: [condition: string] }>()
const isOpen = ref(false)

const examples = computed(() => exampleConditions(site.model, types, t('conditions.exampleWord')))
function use(condition: string): void {
  emit('use', condition)
  isOpen.value = false
}
</script>

<template>
  <PopPanel v-model="isOpen" :label="t('conditions.whatIsThis')" :width="420" placement="bottom-end">
    <template #reference>
      <ElButton text class="help" aria-haspopup="dialog">
        <ElIcon aria-hidden="true"><QuestionFilled /></ElIcon>&nbsp;{{ t('conditions.whatIsThis') }}
      </ElButton>
    </template>
    <p>{{ t('conditions.explained') }}</p>
    <ul>
      <li v-for="example in examples" :key="example">
        <button class="plain example" type="button" @click="use(example)">
          <code>{{ example }}</code>
        </button>
      </li>
    </ul>
    <p class="quiet">{{ t('conditions.explainedMore') }}</p>
  </PopPanel>
</template>

<style scoped>
p {
  margin: 0 0 8px;
  font-size: 13px;
  line-height: 20px;
  text-align: start;
}
ul {
  margin: 0 0 8px;
  padding: 0;
  list-style: none;
}
.example {
  display: block;
  inline-size: 100%;
  padding: 4px 6px;
  text-align: start;
  color: var(--w-accent);
}
.example:hover,
.example:focus-visible {
  background: var(--w-accent-wash);
}
.help {
  padding-inline: 8px;
  color: var(--w-ink2);
}
code {
  overflow-wrap: anywhere;
}
</style>
