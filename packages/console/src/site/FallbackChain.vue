<script setup lang="ts">
import { Right } from '@element-plus/icons-vue'
import { ElIcon } from 'element-plus'
import { computed } from 'vue'
import { chainOf, type SiteSettings } from '@wisteria/core'
import { t } from '../messages'

/** The locales that a value is taken from, drawn in their order: the first with a value counts. */
const { settings, tag } = defineProps<{ settings: SiteSettings; tag: string }>()
const chain = computed(() => chainOf(settings, tag))
const said = computed(() =>
  t('site.chain', {
    locale: tag,
    chain: chain.value.length > 1 ? t('site.chainThen', { locale: tag, others: chain.value.slice(1).join(', ') }) : tag,
  }),
)
</script>

<template>
  <p v-if="chain.length > 1" class="chain" role="img" :aria-label="said">
    <template v-for="(step, index) in chain" :key="step">
      <ElIcon v-if="index > 0" class="arrow"><Right /></ElIcon>
      <bdi class="step" dir="ltr"
        ><code>{{ step }}</code></bdi
      >
    </template>
  </p>
</template>

<style scoped>
.chain {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px;
  margin: 4px 0 0;
  color: var(--w-ink2);
}
.step {
  padding: 0 6px;
  border: 1px solid var(--w-rule);
  border-radius: 2px;
  line-height: 18px;
}
.step:first-child {
  color: var(--w-ink);
  border-color: var(--w-ink2);
}
[dir='rtl'] .arrow {
  transform: scaleX(-1);
}
</style>
