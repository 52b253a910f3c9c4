<script setup lang="ts">
import type { AccessKey } from '@wisteria/client'
import { keyScopes, type KeyScope } from '@wisteria/core'
import { ElButton, ElInput, ElRadio, ElRadioGroup } from 'element-plus'
import { reactive, ref } from 'vue'
import { useActs } from '../acts'
import StripBar from '../components/StripBar.vue'
import FormSheet from '../site/FormSheet.vue'
import OneTimeSecret from '../site/OneTimeSecret.vue'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'
import { useSending } from '../sending'
import { nameOfActor } from '../session'
import { ago } from '../times'
import ConfirmButton from '../components/ConfirmButton.vue'
import RowTable from '../components/RowTable.vue'
import { t } from '../messages'

/** The access keys of programs: made, shown once, revoked. */
const props = defineProps<{ site: string }>()
const { site, content, trouble, load } = useSettings(props.site, async ({ editor }) =>
  (await editor.keys()).keys.toSorted((a, b) => Number(a.revokedAt !== null) - Number(b.revokedAt !== null)),
)
const { result, refused, act } = useActs(load)
const revoke = ({ id, label }: AccessKey) => act(() => site.value!.editor.revokeKey(id), t('keys.revoked', { label }))

const isCreating = ref(false)
const form = reactive<{ label: string; scope: KeyScope }>({ label: '', scope: 'published' })
const { problems, isBusy, send } = useSending()
const secret = ref('')
function openForm(): void {
  Object.assign(form, { label: '', scope: 'published' })
  problems.value = []
  isCreating.value = true
}
async function create(): Promise<void> {
  if (!(await send(async () => (secret.value = (await site.value!.editor.createKey(form)).secret)))) return
  isCreating.value = false
  await load()
}
</script>

<template>
  <SettingsFrame :site="props.site" :trouble="trouble" @again="load">
    <h1 class="page-name">{{ t('settings.keys') }}</h1>
    <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
    <p v-if="content?.length === 0" class="content">{{ t('keys.none') }}</p>
    <RowTable
      v-else-if="content"
      :heads="[t('keys.label'), t('keys.scopeHead'), t('keys.begins'), t('keys.lastUsed'), t('keys.createdBy')]"
      has-actions
    >
      <tr v-for="key in content" :key="key.id" :class="{ revoked: key.revokedAt }">
        <th scope="row">
          <bdi>{{ key.label }}</bdi>
        </th>
        <td>{{ t(`keys.${key.scope}`) }}</td>
        <td>
          <bdi dir="ltr"
            ><code>{{ key.prefix }}</code></bdi
          >
        </td>
        <td>{{ key.lastUsedAt ? ago(key.lastUsedAt) : t('keys.never') }}</td>
        <td>
          <bdi>{{ nameOfActor(site!, key.createdBy) }}</bdi>
        </td>
        <td class="actions">
          <span v-if="key.revokedAt" class="quiet">{{ t('keys.revokedAt', { when: ago(key.revokedAt) }) }}</span>
          <ConfirmButton
            v-else
            :label="t('keys.revokeMore')"
            :question="t('keys.revokeQuestion', { label: key.label })"
            :verb="t('keys.revoke')"
            @confirm="revoke(key)"
          />
        </td>
      </tr>
    </RowTable>
  </SettingsFrame>
  <StripBar :result="result">
    <template v-if="content" #end>
      <ElButton type="primary" @click="openForm">{{ t('keys.createMore') }}</ElButton>
    </template>
  </StripBar>
  <FormSheet
    v-model="isCreating"
    :title="t('keys.createTitle')"
    :submit="t('keys.create')"
    :problems="problems"
    :is-busy="isBusy"
    @submit="create"
  >
    <label for="key-label">{{ t('keys.label') }}</label>
    <ElInput
      id="key-label"
      v-model="form.label"
      :placeholder="t('keys.labelExample')"
      maxlength="120"
      autofocus
      required
    />
    <span id="key-scope" class="label">{{ t('keys.scope') }}</span>
    <ElRadioGroup v-model="form.scope" aria-labelledby="key-scope" class="scopes">
      <ElRadio v-for="scope in keyScopes" :key="scope" :value="scope">
        {{ t(`keys.${scope}`) }} <small class="quiet after">{{ t(`keys.${scope}For`) }}</small>
      </ElRadio>
    </ElRadioGroup>
  </FormSheet>
  <OneTimeSecret
    v-if="secret"
    :title="t('keys.secret')"
    :explained="t('keys.shownOnce')"
    :label="t('keys.secret')"
    :value="secret"
    @stored="secret = ''"
  />
</template>

<style scoped>
.revoked th,
.revoked td {
  color: var(--w-ink3);
}
.revoked th {
  text-decoration: line-through;
}
.scopes {
  display: grid;
  justify-items: start;
}
</style>
