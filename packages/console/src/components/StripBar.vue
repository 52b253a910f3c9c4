<script setup lang="ts">
/** The foot of every page. Start: saved, or selected; middle: what readers get; end: the page's only filled button. */
const { result = '' } = defineProps<{ result?: string | undefined }>()
</script>

<template>
  <footer class="strip" data-region="strip">
    <div class="start">
      <slot name="start" />
      <span role="status" class="result">{{ result }}</span>
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
