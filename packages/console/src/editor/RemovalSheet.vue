<script setup lang="ts">
import type { WithdrawalConsequences, UsedBy } from '@wisteria/client'
import { ElButton, ElCheckbox } from 'element-plus'
import { computed, ref, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import PageTrouble from '../components/PageTrouble.vue'
import { useWorkingCopy } from './workingCopy'
import { messageOf, t } from '../messages'
import EntryLink from '../components/EntryLink.vue'
import LocalePicker from '../components/LocalePicker.vue'

/** Withdraws, archives or deletes an entry: first shows what readers lose, and the broken references. */
const open = defineModel<boolean>({ required: true })
const { how } = defineProps<{ how: 'withdraw' | 'archive' | 'delete' }>()
const emit = defineEmits<{ takenDown: [result: string]; deleted: [] }>()
const copy = useWorkingCopy()

const consequences = ref<WithdrawalConsequences>()
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
      copy.site.editor.withdrawalConsequences(id, asked),
      copy.site.editor.usage(id),
    ])
    consequences.value = going
    usedBy.value = usage.usedBy.filter((referrer) => referrer.inWorkingCopy && !referrer.inBin)
    if (!asked) scope.value = [...going.locales]
  } catch (error) {
    trouble.value = error
  }
}
watch(
  open,
  (now) => {
    if (!now) return
    consequences.value = undefined
    refused.value = ''
    withChildren.value = false
    void weigh()
  },
  { immediate: true },
)

function rescope(chosen: readonly string[]): void {
  scope.value = [...chosen]
  if (scope.value.length > 0) void weigh(scope.value)
}

const nothing = computed(() => t(`removal.nothing.${how}`))
const isPublic = computed(() => (consequences.value?.publicLocales.length ?? 0) > 0)
const mayGo = computed(() => {
  if (!consequences.value || trouble.value) return false
  if (how === 'delete') return !isPublic.value && usedBy.value.length === 0
  const stays = consequences.value.children.length > 0 && !withChildren.value
  return how === 'archive' ? !stays : scope.value.length > 0 && !stays
})
const title = computed(() => {
  const name = copy.entry.value?.title
  return t(`removal.title.${how}`, { name: name ?? '' })
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
    const { version } = consequences.value!
    if (how === 'archive') {
      copy.take(await copy.site.editor.archive(id, { version, withChildren: withChildren.value }))
      await copy.weigh()
      open.value = false
      return emit('takenDown', t('removal.archived'))
    }
    copy.take(await copy.site.editor.withdraw(id, { locales: scope.value, version, withChildren: withChildren.value }))
    await copy.weigh()
    open.value = false
    emit('takenDown', t('removal.withdrawn', { locales: scope.value.join(', ') }))
  } catch (error) {
    refused.value = `${nothing.value} ${messageOf(error)}`
    await weigh()
  } finally {
    isWorking.value = false
  }
}
</script>

<template>
  <ConsequenceSheet v-model="open" :title="title">
    <PageTrouble v-if="trouble" :error="trouble" :safe="nothing" @again="weigh()" />
    <p v-else-if="!consequences" class="quiet" role="status">{{ t('common.workingOut') }}</p>
    <div v-else class="columns">
      <section :aria-label="t('removal.whatGoes')">
        <template v-if="how === 'delete'">
          <p v-if="isPublic" class="error-text">
            {{ t('removal.isPublic', { locales: consequences.publicLocales.join(', ') }) }}
          </p>
          <p v-else class="content">
            {{ t('removal.inBin') }}
          </p>
        </template>
        <template v-else>
          <p v-if="how === 'archive'" class="content">
            {{ t('removal.leavesLists') }}
          </p>
          <p v-if="!isPublic" class="content">{{ t('removal.notPublic') }}</p>
          <p v-else class="content">
            {{ t('removal.readersLose', { locales: scope.join(', ') }) }}
          </p>
          <template v-if="Object.keys(consequences.paths).length > 0">
            <h3>{{ t('removal.lostPaths') }}</h3>
            <ul>
              <li v-for="(path, locale) in consequences.paths" :key="locale">
                {{ locale }}
                <bdi dir="ltr"
                  ><code class="gone">{{ path }}</code></bdi
                >
              </li>
            </ul>
          </template>
          <template v-if="consequences.children.length > 0">
            <h3>{{ t('removal.below') }}</h3>
            <ul>
              <li v-for="child in consequences.children" :key="child.id">
                <bdi>{{ child.title }}</bdi>
              </li>
            </ul>
            <ElCheckbox v-model="withChildren">{{ t('removal.withBelow') }}</ElCheckbox>
          </template>
        </template>
      </section>
      <section :aria-label="t('removal.whoUsesIt')">
        <template v-if="(how === 'delete' ? usedBy : consequences.dangling).length > 0">
          <h3>{{ how === 'delete' ? t('removal.referring') : t('removal.broken') }}</h3>
          <p v-if="how === 'delete'" class="error-text">{{ t('removal.referencesFirst') }}</p>
          <p v-else class="quiet">{{ t('removal.notSeenThere') }}</p>
          <ul>
            <li v-for="referrer in how === 'delete' ? usedBy : consequences.dangling" :key="referrer.id">
              <EntryLink :id="referrer.id" :site="copy.site.name" :title="referrer.title" />
              <small class="quiet">{{ referrer.type }}</small>
            </li>
          </ul>
        </template>
        <p v-else class="quiet">{{ t('removal.noReferences') }}</p>
      </section>
    </div>
    <template #foot>
      <LocalePicker
        v-if="how === 'withdraw' && consequences && consequences.publicLocales.length > 1"
        :model-value="scope"
        :tags="consequences.publicLocales"
        :aria-label="t('removal.locales')"
        @update:model-value="rescope"
      />
      <span class="error-text" role="alert">{{ refused }}</span>
      <span class="gap" />
      <ElButton @click="open = false">{{ t('common.notNow') }}</ElButton>
      <ElButton
        v-if="how !== 'withdraw' || isPublic"
        type="danger"
        :disabled="!mayGo"
        :loading="isWorking"
        @click="go"
        >{{
          how === 'withdraw' ? t('removal.withdrawIn', { locales: scope.join(', ') }) : t(`removal.verb.${how}`)
        }}</ElButton
      >
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
li {
  padding: 2px 0;
}
li small {
  margin-inline-start: 6px;
}
.gap {
  flex: 1;
}
</style>
