<script setup lang="ts">
import type { ChangeChoice, EditableEntry, SourceChange, SourceChanges } from '@wisteria/client'
import { decide, isSameChange } from '@wisteria/core'
import { ElButton, ElRadio, ElRadioGroup } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import EntryLink from '../components/EntryLink.vue'
import MessageText from '../components/MessageText.vue'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import { regionTitle } from '../counterparts/regionNames'
import type { Reading } from '../editor/inWords'
import DifferenceGroup from '../history/DifferenceGroup.vue'
import { groupsOf } from '../history/groups'
import { messageOf, t } from '../messages'
import { openSite, type Site } from '../session'

/** What changed in the entry that this one was copied from: taken change by change, or as a whole. */
const props = defineProps<{ site: string; id: string }>()
const router = useRouter()
const ready = shallowRef<{ site: Site; entry: EditableEntry; found: SourceChanges }>()
const trouble = shallowRef<unknown>()
const choices = ref<readonly ChangeChoice[]>([])
const isOverwriting = ref(false)
const isWorking = ref(false)
const result = ref('')
const refused = ref('')

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    const site = await openSite(props.site)
    const [entry, found] = await Promise.all([site.editor.entry(props.id), site.editor.counterparts.changes(props.id)])
    choices.value = []
    ready.value = { site, entry, found }
  } catch (error) {
    trouble.value = error
  }
}
watch(() => props.id, load, { immediate: true })

const changes = computed(() => ready.value?.found.changes ?? [])
const reading = computed((): Reading => {
  const { site, found } = ready.value!
  return { model: site.model, timeZone: site.settings.timeZone, names: found.names }
})
const mayTake = computed(() => {
  const now = ready.value
  if (!now) return false
  const { type, region } = now.entry
  return decide(now.site.caller, 'entry.write', { type, region, shared: true }).allowed
})
const keyOf = ({ how, at, locale }: SourceChange): string => JSON.stringify([how, at, locale])
/** The side of a change: chosen, or the source's where it meets nothing here. */
const sideOf = (change: SourceChange): ChangeChoice['side'] | undefined =>
  choices.value.find((choice) => isSameChange({ ...choice, locale: choice.locale ?? null }, change))?.side ??
  (change.own.length === 0 ? 'source' : undefined)
function choose(change: SourceChange, side: ChangeChoice['side']): void {
  const { how, at, locale } = change
  const others = choices.value.filter((choice) => !isSameChange({ ...choice, locale: choice.locale ?? null }, change))
  choices.value = [...others, { how, at, locale, side }]
}
const open = computed(() => changes.value.filter((change) => sideOf(change) === undefined).length)
const wanted = computed(() => changes.value.filter((change) => sideOf(change) === 'source').length)

async function take(everything: boolean): Promise<void> {
  const { site, entry, found } = ready.value!
  isWorking.value = true
  result.value = refused.value = ''
  try {
    const { taken, left, version } = await site.editor.counterparts.take(
      props.id,
      {
        take: everything ? 'everything' : 'changes',
        ...(everything ? {} : { choices: choices.value }),
        sourceVersion: found.source.version,
      },
      entry.version,
    )
    result.value = everything ? t('regions.overwritten', { version }) : t('regions.taken', { taken, left, version })
    isOverwriting.value = false
  } catch (error) {
    refused.value = messageOf(error)
  }
  await load()
  isWorking.value = false
}
</script>

<template>
  <main v-if="ready" class="desk" data-region="work">
    <article class="paper">
      <header>
        <h1 class="serif" dir="auto">{{ ready.entry.title || t('history.noNameYet') }}</h1>
        <p class="quiet">
          <MessageText of="regions.changesOf">
            <template #source
              ><EntryLink :id="ready.found.source.id" :site="props.site" :title="ready.found.source.title"
            /></template>
            <template #region
              ><bdi>{{ regionTitle(ready.site.settings, ready.found.source.region) }}</bdi></template
            >
          </MessageText>
        </p>
      </header>
      <PageTrouble v-if="trouble" :error="trouble" @again="load" />
      <p v-else-if="changes.length === 0" class="content none">{{ t('regions.nothingChanged') }}</p>
      <section
        v-for="change in changes"
        v-else
        :key="keyOf(change)"
        class="change"
        :class="{ left: sideOf(change) === 'own', open: sideOf(change) === undefined }"
      >
        <DifferenceGroup
          v-for="group in groupsOf([change])"
          :key="group.labels.join()"
          :group="group"
          :reading="reading"
          :may-restore="false"
        />
        <div v-if="change.own.length > 0" class="own">
          <h3>{{ t('regions.changedHere') }}</h3>
          <DifferenceGroup
            v-for="group in groupsOf(change.own)"
            :key="group.labels.join() + group.locale"
            :group="group"
            :reading="reading"
            :may-restore="false"
            :called="`${t('regions.changedHere')}: ${group.labels.join(', ')}`"
          />
        </div>
        <ElRadioGroup
          v-if="mayTake"
          class="sides"
          :model-value="sideOf(change)"
          :aria-label="t('regions.sideOf', { field: change.labels.join(', ') })"
          @update:model-value="choose(change, $event as ChangeChoice['side'])"
        >
          <ElRadio value="source">{{ t('regions.take') }}</ElRadio>
          <ElRadio value="own">{{ t('regions.leave') }}</ElRadio>
        </ElRadioGroup>
      </section>
    </article>
  </main>
  <main v-else data-region="work"><PageTrouble v-if="trouble" :error="trouble" @again="load" /></main>
  <StripBar :result="result">
    <template #start>
      <span v-if="refused" class="error-text" role="alert" :title="refused">{{ refused }}</span>
      <template v-else-if="ready && !result">{{ t('regions.changeCount', { n: changes.length }) }}</template>
    </template>
    <template v-if="open > 0" #middle>
      <span class="decide">{{ t('regions.toDecide', { n: open }) }}</span>
    </template>
    <template #end>
      <ElButton @click="router.push({ name: 'entry', params: { site: props.site, id: props.id } })">{{
        t('history.backToEntry')
      }}</ElButton>
      <template v-if="mayTake">
        <ElButton @click="isOverwriting = true">{{ t('regions.overwriteMore') }}</ElButton>
        <ElButton
          v-if="changes.length > 0"
          type="primary"
          :disabled="open > 0"
          :loading="isWorking"
          @click="take(false)"
          >{{ wanted === 0 ? t('regions.takeNone') : t('regions.takeCount', { n: wanted }) }}</ElButton
        >
      </template>
    </template>
  </StripBar>
  <ConsequenceSheet
    v-if="ready"
    v-model="isOverwriting"
    :title="t('regions.overwriteTitle', { title: ready.found.source.title })"
  >
    <p>{{ ready.found.lost.length === 0 ? t('regions.overwriteSame') : t('regions.overwriteExplained') }}</p>
    <DifferenceGroup
      v-for="group in groupsOf(ready.found.lost)"
      :key="group.place.at.join('/') + group.locale"
      :group="group"
      :reading="reading"
      :may-restore="false"
    />
    <template #foot>
      <ElButton type="primary" :disabled="ready.found.lost.length === 0" :loading="isWorking" @click="take(true)">{{
        t('regions.overwrite')
      }}</ElButton>
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
.desk {
  overflow: auto;
  padding: 24px;
}
.paper {
  max-inline-size: 784px;
  margin-inline: auto;
  padding-block: 32px 40px;
}
header,
.none {
  padding-inline: 43px 40px;
}
h1 {
  font-size: 30px;
  line-height: 38px;
}
.change {
  padding-block-end: 12px;
  border-block-start: 1px solid var(--w-hair);
  border-inline-start: 3px solid transparent;
}
.change.open {
  border-inline-start-color: var(--w-edited);
}
.change.left > :first-child {
  opacity: 0.6;
}
.change :deep(.group) {
  grid-template-columns: minmax(0, 1fr);
}
.own {
  background: var(--w-sunk);
}
.own h3 {
  padding: 8px 40px 0;
  font-size: 13px;
  color: var(--w-ink2);
}
.sides {
  gap: 4px 24px;
  padding-inline: 40px;
}
.sides .el-radio {
  gap: 8px;
  margin: 0;
}
.sides :deep(.el-radio__label) {
  padding: 0;
}
.decide {
  color: var(--w-edited);
}
@media (max-width: 600px) {
  .desk {
    padding: 8px;
  }
  header,
  .none,
  .sides,
  .own h3,
  .change :deep(.text) {
    padding-inline: 16px;
  }
}
</style>
