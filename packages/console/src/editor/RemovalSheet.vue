<script setup lang="ts">
import type { UnpublishConsequences, UsedBy } from '@wisteria/client'
import { ElButton, ElCheckbox, ElCheckboxGroup } from 'element-plus'
import { computed, ref, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import PageTrouble from '../components/PageTrouble.vue'
import { useWorkingCopy } from './workingCopy'
import { messageOf } from '../messages'

/** Takes an entry down, or away: what readers lose, and who would point at nothing, before it is done. */
const open = defineModel<boolean>({ required: true })
const { how } = defineProps<{ how: 'takeDown' | 'archive' | 'delete' }>()
const emit = defineEmits<{ takenDown: [result: string]; deleted: [] }>()
const copy = useWorkingCopy()

const found = ref<UnpublishConsequences>()
const usedBy = ref<readonly UsedBy[]>([])
const scope = ref<string[]>([])
const withChildren = ref(false)
const trouble = ref<unknown>()
const refused = ref('')
const isWorking = ref(false)

async function weigh(asked?: readonly string[]): Promise<void> {
  trouble.value = undefined
  const { id } = copy.entry.value!
  try {
    const [going, usage] = await Promise.all([
      copy.site.editor.unpublishConsequences(id, asked),
      copy.site.editor.usage(id),
    ])
    found.value = going
    usedBy.value = usage.usedBy.filter((one) => one.inWorkingCopy && !one.inBin)
    if (!asked) scope.value = [...going.locales]
  } catch (error) {
    trouble.value = error
  }
}
watch(
  open,
  (now) => {
    if (!now) return
    found.value = undefined
    refused.value = ''
    withChildren.value = false
    void weigh()
  },
  { immediate: true },
)

function rescope(chosen: unknown): void {
  scope.value = found.value!.publicLocales.filter((tag) => (chosen as string[]).includes(tag))
  if (scope.value.length > 0) void weigh(scope.value)
}

const verbs = { takeDown: 'Take down', archive: 'Archive', delete: 'Delete' } as const
const nothing = {
  takeDown: 'Nothing was taken down.',
  archive: 'Nothing was archived.',
  delete: 'Nothing was deleted.',
} as const
const isPublic = computed(() => (found.value?.publicLocales.length ?? 0) > 0)
const mayGo = computed(() => {
  if (!found.value || trouble.value) return false
  if (how === 'delete') return !isPublic.value && usedBy.value.length === 0
  const stays = found.value.children.length > 0 && !withChildren.value
  return how === 'archive' ? !stays : scope.value.length > 0 && !stays
})
const title = computed(() => {
  const name = copy.entry.value?.title
  return `${verbs[how]} “${name}”`
})

async function go(): Promise<void> {
  isWorking.value = true
  refused.value = ''
  const { id } = copy.entry.value!
  try {
    if (how === 'delete') {
      await copy.site.editor.delete(id)
      open.value = false
      return emit('deleted')
    }
    const { version } = found.value!
    if (how === 'archive') {
      copy.take(await copy.site.editor.archive(id, { version, withChildren: withChildren.value }))
      await copy.weigh()
      open.value = false
      return emit('takenDown', 'Archived')
    }
    copy.take(await copy.site.editor.unpublish(id, { locales: scope.value, version, withChildren: withChildren.value }))
    await copy.weigh()
    open.value = false
    emit('takenDown', `Taken down in ${scope.value.join(', ')}`)
  } catch (error) {
    refused.value = `${nothing[how]} ${messageOf(error)}`
    await weigh()
  } finally {
    isWorking.value = false
  }
}
</script>

<template>
  <ConsequenceSheet v-model="open" :title="title">
    <PageTrouble v-if="trouble" :error="trouble" :safe="nothing[how]" @again="weigh()" />
    <p v-else-if="!found" class="quiet" role="status">Working out what changes…</p>
    <div v-else class="columns">
      <section aria-label="What goes">
        <template v-if="how === 'delete'">
          <p v-if="isPublic" class="error-text">
            It is public in {{ found.publicLocales.join(', ') }}. Take it down first.
          </p>
          <p v-else class="content">
            It lies in the bin for 30 days, with all its revisions, and can be taken back from there.
          </p>
        </template>
        <template v-else>
          <p v-if="how === 'archive'" class="content">
            It leaves the lists, and nothing of it changes until it is taken out of the archive.
          </p>
          <p v-if="!isPublic" class="content">Nothing of it is public.</p>
          <p v-else class="content">
            Readers no longer get it in {{ scope.join(', ') }}. The working copy stays as it is.
          </p>
          <template v-if="Object.keys(found.paths).length > 0">
            <h3>Paths that lead nowhere</h3>
            <ul>
              <li v-for="(path, locale) in found.paths" :key="locale">
                {{ locale }}
                <bdi dir="ltr"
                  ><code class="gone">{{ path }}</code></bdi
                >
              </li>
            </ul>
          </template>
          <template v-if="found.children.length > 0">
            <h3>Below it</h3>
            <ul>
              <li v-for="one in found.children" :key="one.id">
                <bdi>{{ one.title }}</bdi>
              </li>
            </ul>
            <ElCheckbox v-model="withChildren">Take down what stands below it as well</ElCheckbox>
          </template>
        </template>
      </section>
      <section aria-label="Who uses it">
        <template v-if="(how === 'delete' ? usedBy : found.dangling).length > 0">
          <h3>{{ how === 'delete' ? 'Entries that refer to it' : 'Pages that would refer to nothing' }}</h3>
          <p v-if="how === 'delete'" class="error-text">Remove the references first.</p>
          <p v-else class="quiet">Their readers no longer see it there.</p>
          <ul>
            <li v-for="one in how === 'delete' ? usedBy : found.dangling" :key="one.id">
              <RouterLink :to="{ name: 'entry', params: { site: copy.site.name, id: one.id } }"
                ><bdi>{{ one.title || 'No name yet' }}</bdi></RouterLink
              >
              <small class="quiet">{{ one.type }}</small>
            </li>
          </ul>
        </template>
        <p v-else class="quiet">No other entry refers to it.</p>
      </section>
    </div>
    <template #foot>
      <ElCheckboxGroup
        v-if="how === 'takeDown' && found && found.publicLocales.length > 1"
        :model-value="scope"
        aria-label="Locales to take down"
        @update:model-value="rescope"
      >
        <ElCheckbox v-for="tag in found.publicLocales" :key="tag" :value="tag">{{ tag }}</ElCheckbox>
      </ElCheckboxGroup>
      <span class="error-text" role="alert">{{ refused }}</span>
      <span class="gap" />
      <ElButton @click="open = false">Not now</ElButton>
      <ElButton
        v-if="how !== 'takeDown' || isPublic"
        type="primary"
        :disabled="!mayGo"
        :loading="isWorking"
        @click="go"
        >{{ how === 'takeDown' ? `Take down ${scope.join(', ')}` : verbs[how] }}</ElButton
      >
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: 7fr 5fr;
  gap: 40px;
}
h3 {
  margin: 16px 0 8px;
  font-size: 13px;
  color: var(--w-ink2);
}
ul {
  list-style: none;
  margin: 0 0 12px;
  padding: 0;
}
li {
  padding: 2px 0;
}
li small {
  margin-inline-start: 6px;
}
.gone {
  text-decoration: line-through;
  color: var(--w-ink2);
}
.gap {
  flex: 1;
}
</style>
