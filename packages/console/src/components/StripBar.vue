<script setup lang="ts">
import { DocumentCopy } from '@element-plus/icons-vue'
import { ElIcon } from 'element-plus'
import { computed } from 'vue'
import { lastActs, showsLastActs, shownActs } from '../lastActs/lastActs'
import { t } from '../messages'

/** The foot of every page. Start: saved, or selected; middle: what readers get; end: the page's only filled button. */
const { result = '' } = defineProps<{ result?: string | undefined }>()
/** The last action is also shown as a command. */
const hasCommand = computed(() => result !== '' && shownActs(lastActs.value).length > 0)
</script>

<template>
  <footer class="strip" data-region="strip">
    <div class="start">
      <slot name="start" />
      <span role="status" class="result">{{ result }}</span>
      <button
        v-if="hasCommand"
        class="plain command"
        type="button"
        :title="t('lastActs.asCommand')"
        :aria-label="t('lastActs.asCommand')"
        @click="showsLastActs = true"
      >
        <ElIcon aria-hidden="true"><DocumentCopy /></ElIcon>
      </button>
    </div>
    <div class="middle"><slot name="middle" /></div>
    <div class="end"><slot name="end" /></div>
  </footer>
</template>

<style scoped>
.strip {
  display: flex;
  align-items: center;
  gap: 24px;
  padding-inline: 24px;
  background: var(--w-paper);
  border-block-start: 1px solid var(--w-hair);
  white-space: nowrap;
}
.start {
  min-inline-size: 208px;
  max-inline-size: 420px;
  overflow: hidden;
  text-overflow: ellipsis;
  color: var(--w-ink2);
}
.command {
  margin-inline-start: 8px;
  vertical-align: -2px;
  color: var(--w-accent);
}
.result:not(:empty) {
  margin-inline-start: 8px;
}
.result {
  color: var(--w-ink);
}
.middle {
  flex: 1;
  display: flex;
  align-items: center;
  gap: 4px 16px;
  min-inline-size: 0;
  overflow: auto hidden;
}
.end {
  display: flex;
  align-items: center;
  gap: 8px;
}
@media (max-width: 900px) {
  .strip {
    flex-wrap: wrap;
    gap: 4px 16px;
    padding: 8px 16px;
  }
  .start {
    min-inline-size: 0;
    max-inline-size: 100%;
  }
  .middle {
    flex-basis: 100%;
    order: 1;
  }
  .middle:empty {
    display: none;
  }
  .end {
    flex-wrap: wrap;
    margin-inline-start: auto;
  }
}
</style>
