<script setup lang="ts">
import type { Job, Proposal } from '@wisteria/client'
import { ElButton } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import JobProgress from '../components/JobProgress.vue'
import { forgetSites, type Site } from '../session'
import { ago } from '../times'
import { forgetDraft, type ModelDraft } from './modelDraft'
import { messageOf, t } from '../messages'
import MessageText from '../components/MessageText.vue'
import EntryLink from '../components/EntryLink.vue'

/** The consequences of adopting: for stored content, editors and readers. */
const open = defineModel<boolean>({ required: true })
const { draft, site, version, from } = defineProps<{
  draft: ModelDraft
  site: Site
  /** An earlier version to go back to, instead of the draft. */
  version?: number | undefined
  /** Another site whose model is taken, instead of the draft. */
  from?: { readonly name: string; readonly label: string } | undefined
}>()
const emit = defineEmits<{ adopted: [version: number] }>()
const proposal = shallowRef<Proposal>()
const failure = ref('')
const job = shallowRef<Job>()
const isAdopting = ref(false)
/** Adopting discards the draft: a changed draft must not be lost to an earlier version. */
const isDraftAtRisk = computed(() => (version !== undefined || from !== undefined) && draft.isChanged.value)
const action = computed(() => {
  if (version !== undefined) return t('model.goBackTo', { version })
  const count = proposal.value?.consequences.length ?? 0
  return t('model.adoptChanges', { n: count })
})
const title = computed(() =>
  from !== undefined
    ? t('copying.whatTakingChanges', { label: from.label })
    : version === undefined
      ? t('model.whatAdoptingChanges')
      : t('model.whatGoingBackChanges', { version }),
)
const groups = computed(() =>
  (['refused', 'breaking', 'plain'] as const)
    .map((weight) => ({
      weight,
      all: (proposal.value?.consequences ?? []).filter((consequence) => consequence.weight === weight),
    }))
    .filter(({ all }) => all.length > 0),
)
const titles = {
  refused: t('model.severity.blocking'),
  breaking: t('model.severity.breaking'),
  plain: t('model.severity.safe'),
} as const

watch(open, async (now) => {
  if (!now) return
  proposal.value = undefined
  failure.value = ''
  job.value = undefined
  try {
    proposal.value =
      from !== undefined
        ? await site.editor.compareModelFrom(from.name)
        : version === undefined
          ? await site.editor.compareModel(draft.files.value)
          : await site.editor.compareModelVersion(version)
  } catch (error) {
    failure.value = messageOf(error)
  }
})

async function adopt(): Promise<void> {
  isAdopting.value = true
  failure.value = ''
  try {
    const adopted = await site.editor.adoptModel(proposal.value!.id, (now) => (job.value = now))
    forgetDraft(site.name)
    forgetSites()
    open.value = false
    emit('adopted', adopted.version)
  } catch (error) {
    failure.value = t('model.nothingAdopted', { message: messageOf(error) })
  } finally {
    isAdopting.value = false
    job.value = undefined
  }
}
</script>

<template>
  <ConsequenceSheet v-model="open" :title="title">
    <p v-if="failure" class="error-text" role="alert">{{ failure }}</p>
    <p v-else-if="!proposal" class="quiet">{{ t('common.workingOut') }}</p>
    <p v-else-if="proposal.consequences.length === 0">{{ t('model.noDifference') }}</p>
    <section v-for="{ weight, all } in groups" :key="weight">
      <h3 :class="{ 'error-text': weight === 'refused' }">
        {{ titles[weight] }} <span class="quiet">{{ all.length }}</span>
      </h3>
      <ul>
        <li v-for="(consequence, index) in all" :key="index">
          <code>{{ consequence.place }}</code>
          <div>
            <p>{{ consequence.message }}</p>
            <ul v-if="consequence.entries" class="entries">
              <li v-for="entry in consequence.entries.first.slice(0, 8)" :key="entry.id">
                <EntryLink :id="entry.id" class="serif" :site="site.name" :title="entry.title" />
                <span v-if="entry.because" class="quiet because">{{ entry.because }}</span>
              </li>
              <li v-if="consequence.entries.count > 8" class="quiet">
                {{ t('common.andMore', { count: consequence.entries.count - 8 }) }}
              </li>
            </ul>
            <p v-if="consequence.readers" class="quiet">
              <MessageText of="model.readBy"
                ><template #readers
                  ><template v-for="(reader, at) in consequence.readers" :key="reader.key"
                    >{{ at > 0 ? ', ' : ''
                    }}<MessageText of="model.reader"
                      ><template #name
                        ><b>{{ reader.label }}</b></template
                      ><template #when>{{ ago(reader.lastReadAt) }}</template></MessageText
                    ></template
                  ></template
                ></MessageText
              >
            </p>
          </div>
        </li>
      </ul>
    </section>
    <template #foot>
      <ElButton :disabled="isAdopting" @click="open = false">{{ t('common.cancel') }}</ElButton>
      <ElButton
        v-if="proposal && proposal.consequences.length > 0"
        :type="proposal.consequences.some(({ weight }) => weight === 'breaking') ? 'danger' : 'primary'"
        :disabled="!proposal.canBeAdopted || isDraftAtRisk"
        :loading="isAdopting"
        @click="adopt"
        >{{ action }}</ElButton
      >
      <span v-if="isDraftAtRisk" class="error-text">{{ t('model.adoptFirst') }}</span>
      <span v-else-if="proposal && !proposal.canBeAdopted" class="error-text">{{ t('model.blocked') }}</span>
      <JobProgress v-if="job" :job="job" />
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
section > ul > li {
  display: grid;
  grid-template-columns: 220px minmax(0, 1fr);
  gap: 16px;
  padding-block: 8px;
  border-block-end: 1px solid var(--w-hair);
}
p {
  margin: 0;
}
.entries {
  margin-block: 4px;
  font-size: 13px;
}
.because {
  margin-inline-start: 8px;
}
code {
  overflow-wrap: anywhere;
}
</style>
