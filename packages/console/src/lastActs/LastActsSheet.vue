<script setup lang="ts">
import { ElButton, ElRadioButton, ElRadioGroup } from 'element-plus'
import { computed, ref, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import { session } from '../session'
import { clock } from '../times'
import { t } from '../messages'
import { asCommand, connectCommand } from './command'
import { emailOf, lastActs, shownActs, type Act } from './lastActs'
import { asRequest } from './request'

/** The last actions in this tab, each as the command and as the HTTP request that do the same. */
const { site = undefined } = defineProps<{ site?: string | undefined }>()
const isOpen = defineModel<boolean>({ required: true })
const shown = ref<'command' | 'request'>('command')
const told = ref('')
const copied = ref('')

const baseUrl = location.origin
const acts = computed(() => shownActs(lastActs.value))
const textOf = (act: Act): string | undefined =>
  shown.value === 'command' ? asCommand(act, emailOf) : asRequest(act, baseUrl)
/** The site of the newest action, or the current one. */
const connectTo = computed(() => acts.value.find((act) => act.site !== undefined)?.site ?? site)
const connect = computed(() => connectCommand(baseUrl, session.value?.account.email, connectTo.value))

watch(isOpen, () => (told.value = copied.value = ''))

const copyLabel = (text: string): string => (copied.value === text ? t('query.copied') : t('common.copy'))
async function copy(text: string): Promise<void> {
  try {
    await navigator.clipboard.writeText(text)
    copied.value = text
    told.value = ''
  } catch {
    copied.value = ''
    told.value = t('lastActs.cannotCopy')
  }
}
</script>

<template>
  <ConsequenceSheet v-model="isOpen" fits :title="t('lastActs.title')">
    <div class="top">
      <ElRadioGroup v-model="shown" size="small" :aria-label="t('lastActs.show')">
        <ElRadioButton value="command">{{ t('lastActs.command') }}</ElRadioButton>
        <ElRadioButton value="request">{{ t('lastActs.request') }}</ElRadioButton>
      </ElRadioGroup>
      <span class="quiet" role="status">{{ told }}</span>
    </div>
    <p v-if="acts.length === 0" class="quiet">{{ t('lastActs.none') }}</p>
    <template v-else>
      <p v-if="shown === 'request'" class="quiet">{{ t('lastActs.token') }}</p>
      <div v-else class="act">
        <span class="quiet">{{ t('lastActs.connect') }}</span>
        <ElButton size="small" @click="copy(connect)">{{ copyLabel(connect) }}</ElButton>
        <pre tabindex="0" dir="ltr">{{ connect }}</pre>
      </div>
      <ol>
        <li v-for="(act, index) in acts" :key="acts.length - index" class="act">
          <span class="quiet">{{ clock(act.time) }}</span>
          <template v-if="textOf(act) !== undefined">
            <ElButton size="small" @click="copy(textOf(act)!)">{{ copyLabel(textOf(act)!) }}</ElButton>
            <pre tabindex="0" dir="ltr">{{ textOf(act) }}</pre>
          </template>
          <span v-else>{{ t('lastActs.noCommand') }}</span>
        </li>
      </ol>
    </template>
    <template #foot>
      <ElButton @click="isOpen = false">{{ t('common.close') }}</ElButton>
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
.top {
  display: flex;
  align-items: center;
  gap: 16px;
  margin-block: 2px 16px;
}
.act {
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: center;
  gap: 4px 16px;
  margin-block-end: 16px;
}
pre {
  grid-column: 1 / -1;
  max-block-size: 240px;
  margin: 0;
  padding: 8px 12px;
  overflow: auto;
  font: 12px/18px var(--w-code);
  text-align: start;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  background: var(--w-sunk);
}
</style>
