<script setup lang="ts">
import type { EditableEntry, EntryComparison, Point, RevisionView } from '@wisteria/client'
import { decide, type GoneValue } from '@wisteria/core'
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import { inWords, type Reading } from '../editor/inWords'
import DifferenceGroup from '../history/DifferenceGroup.vue'
import { groupsOf, type Group } from '../history/groups'
import RevisionList from '../history/RevisionList.vue'
import { openSite, type Site } from '../session'
import { messageOf, t } from '../messages'
import MessageText from '../components/MessageText.vue'

/** Two states of an entry beside each other, and restoring the earlier one. */
const props = defineProps<{ site: string; id: string }>()
const route = useRoute()
const router = useRouter()
const ready = shallowRef<{ site: Site; entry: EditableEntry; revisions: readonly RevisionView[] }>()
const comparison = shallowRef<EntryComparison>()
/** Values of removed fields: of the older chosen revision, or of the newest one. */
const gone = shallowRef<readonly GoneValue[]>([])
const trouble = shallowRef<unknown>()
const refused = ref('')
const result = ref('')
const isWorking = ref(false)

const pointIn = (asked: unknown, otherwise: Point): Point =>
  asked === 'public' || asked === 'working' ? asked : /^[1-9]\d*$/.test(String(asked)) ? Number(asked) : otherwise
const isPublic = computed(() => ready.value?.revisions.some((revision) => revision.publicIn.length > 0) ?? false)
/** The first comparison: with the published edition, or, when nothing differs, with the sitting before. */
const from = computed(() =>
  pointIn(route.query['from'], isPublic.value ? 'public' : Math.max(1, (ready.value?.entry.revision ?? 1) - 1)),
)
const to = computed(() => pointIn(route.query['to'], 'working'))
const sides = ['from', 'to'] as const
const ends = computed(() => ({ from: from.value, to: to.value }))
const choose = (points: { from?: Point; to?: Point }) =>
  void router.replace({ query: { ...route.query, ...ends.value, ...points } })

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    const site = await openSite(props.site)
    const [entry, { revisions }] = await Promise.all([site.editor.entry(props.id), site.editor.revisions(props.id)])
    ready.value = { site, entry, revisions }
    comparison.value = await site.editor.compare(props.id, { from: from.value, to: to.value })
    const revision = [from.value, to.value].find((point) => typeof point === 'number') ?? entry.revision
    gone.value = (await site.editor.revision(props.id, revision)).gone
  } catch (error) {
    trouble.value = error
  }
}
watch([() => props.id, () => route.query['from'], () => route.query['to']], load, { immediate: true })

const reading = computed((): Reading => {
  const { model, settings } = ready.value!.site
  return { model, timeZone: settings.timeZone, names: comparison.value?.names }
})
const groups = computed(() => groupsOf(comparison.value?.differences ?? []))
const mayRestore = computed(
  () =>
    ready.value !== undefined && from.value !== 'working' && decide(ready.value.site.caller, 'entry.translate').allowed,
)
const points = computed(() => [
  { value: 'working' as Point, label: t('history.theWorkingCopy') },
  ...(isPublic.value ? [{ value: 'public' as Point, label: t('history.whatIsPublic') }] : []),
  ...(ready.value?.revisions ?? []).map(({ number }) => ({
    value: number as Point,
    label: t('history.revision', { number }),
  })),
])
const nameOf = (point: Point) => points.value.find((candidate) => candidate.value === point)?.label ?? String(point)

async function restore(group?: Group): Promise<void> {
  if (from.value === 'working' || !ready.value || isWorking.value) return
  isWorking.value = true
  refused.value = result.value = ''
  try {
    const { site, entry } = ready.value
    const { changed, version } = await site.editor.restore(props.id, {
      from: from.value,
      version: entry.version,
      ...(group ? { places: [group.place] } : {}),
    })
    result.value =
      changed === 0
        ? t('history.alreadySo')
        : t('history.restored', {
            what: group?.labels.at(-1) ?? t('history.allOfIt'),
            from: nameOf(from.value),
            version,
          })
  } catch (error) {
    refused.value = t('history.nothingChanged', { message: messageOf(error) })
  }
  await load()
  isWorking.value = false
}
const count = computed(() => {
  const all = comparison.value?.differences.length ?? 0
  return all === 0 ? t('history.noDifferences') : t('history.differences', { n: all })
})
</script>

<template>
  <main v-if="ready" class="desk" data-region="work">
    <RevisionList
      :site="ready.site"
      :revisions="ready.revisions"
      :from="from"
      @choose="(point) => choose({ from: point })"
    />
    <div class="scroll">
      <article class="paper">
        <header>
          <h1 class="serif" dir="auto">{{ ready.entry.title || t('history.noNameYet') }}</h1>
          <p class="between">
            <MessageText of="history.fromTo">
              <template v-for="side in sides" :key="side" #[side]>
                <ElSelect
                  :model-value="ends[side]"
                  :aria-label="t(`history.${side}`)"
                  size="small"
                  @change="(point: Point) => choose({ [side]: point })"
                  ><ElOption v-for="point in points" :key="point.value" v-bind="point"
                /></ElSelect>
              </template>
            </MessageText>
          </p>
        </header>
        <PageTrouble v-if="trouble" :error="trouble" @again="load" />
        <template v-else-if="comparison">
          <p v-if="groups.length === 0" class="content none">{{ t('history.noDifferencesStop') }}</p>
          <DifferenceGroup
            v-for="group in groups"
            :key="group.place.at.join('/') + group.locale"
            :group="group"
            :reading="reading"
            :may-restore="mayRestore"
            @restore="restore(group)"
          />
        </template>
        <section v-if="gone.length > 0" class="gone">
          <h2>{{ t('history.removedFields') }}</h2>
          <p class="quiet">
            {{ t('history.removedFieldsExplained') }}
          </p>
          <dl>
            <template v-for="difference in gone" :key="`${difference.pointer} ${difference.locale}`">
              <dt>{{ difference.label }}{{ difference.locale ? ` (${difference.locale})` : '' }}</dt>
              <dd dir="auto" class="serif" :lang="difference.locale ?? undefined">
                {{ inWords(difference.value, difference.kind, reading) }}
              </dd>
            </template>
          </dl>
        </section>
      </article>
    </div>
  </main>
  <main v-else data-region="work"><PageTrouble v-if="trouble" :error="trouble" @again="load" /></main>
  <StripBar :result="result">
    <template #start>
      <span v-if="refused" class="error-text" role="alert" :title="refused">{{ refused }}</span>
      <template v-else-if="comparison && !result">{{ count }} </template>
    </template>
    <template #end>
      <ElButton @click="router.push({ name: 'entry', params: { site: props.site, id: props.id } })">{{
        t('history.backToEntry')
      }}</ElButton>
      <ElButton v-if="mayRestore && groups.length > 0" type="primary" :loading="isWorking" @click="restore()">{{
        t('history.restoreAll')
      }}</ElButton>
    </template>
  </StripBar>
</template>

<style scoped>
.gone {
  margin: 24px 40px 0;
  padding-block-start: 4px;
  border-block-start: 1px solid var(--w-hair);
}
.gone dt {
  font-size: 13px;
  color: var(--w-ink2);
}
.gone dd {
  margin: 0 0 12px;
}
.desk {
  display: grid;
  grid-template-columns: 208px minmax(0, 1fr);
  gap: 24px;
  padding-inline: 24px;
  min-block-size: 0;
}
.scroll {
  overflow: auto;
  padding-block: 24px;
}
.paper {
  inline-size: 704px;
  min-block-size: 100%;
  padding-block: 32px 40px;
}
header {
  padding-inline: 40px;
  margin-block-end: 12px;
}
h1 {
  font-size: 30px;
  line-height: 38px;
}
.between {
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 8px 0 0;
  color: var(--w-ink2);
}
.between .el-select {
  inline-size: 160px;
}
.none {
  padding-inline: 40px;
}
</style>
