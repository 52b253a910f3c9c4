<script setup lang="ts">
import type { Invitation, Member, MemberLimits } from '@wisteria/client'
import { decide, localeTags, mayGrant, roles, type Role } from '@wisteria/core'
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { useActs } from '../acts'
import { regionsOf, regionTitle } from '../counterparts/regionNames'
import StripBar from '../components/StripBar.vue'
import FormSheet from '../site/FormSheet.vue'
import OneTimeSecret from '../site/OneTimeSecret.vue'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'
import { useSending } from '../sending'
import { rememberEmails } from '../lastActs/lastActs'
import { forgetSites, nameOfActor, session } from '../session'
import { moment } from '../times'
import ConfirmButton from '../components/ConfirmButton.vue'
import RowTable from '../components/RowTable.vue'
import { t } from '../messages'

/** The members of the site with their roles, and the open invitations. */
const props = defineProps<{ site: string }>()
const { site, content, trouble, load } = useSettings(props.site, async ({ editor }) => {
  const [{ members }, { invitations }] = await Promise.all([editor.members(), editor.invitations()])
  rememberEmails([...members, ...invitations])
  return { members, invitations }
})
/** Names of members are shown on other pages too. */
async function reload(): Promise<void> {
  forgetSites()
  await load()
}
const { result, refused, act } = useActs(reload)
const mayManage = computed(() => site.value !== undefined && decide(site.value.caller, 'member.manage').allowed)
const tags = computed(() => (site.value ? localeTags(site.value.settings) : []))
const myRole = computed(() => (site.value?.caller.is === 'member' ? site.value.caller.role : undefined))
const offered = computed(() => roles.filter((role) => myRole.value && mayGrant(myRole.value, role)))
const me = computed(() => session.value?.account.id)

const regions = computed(() => (site.value ? regionsOf(site.value.settings) : []))
/** Limits without a name in them are none. */
const limitsOf = ({ role, locales, regions: places }: MemberLimits) => ({
  role,
  locales: locales?.length ? locales : null,
  regions: places?.length ? places : null,
})
const change = (member: Member, changed: Partial<MemberLimits>) =>
  act(
    () => site.value!.editor.changeMember(member.account, limitsOf({ ...member, ...changed })),
    t('members.changed', { name: member.name }),
  )
/** The limits of somebody in words. */
const limitWords = ({ locales, regions: places }: MemberLimits): string =>
  [
    locales?.join(', ') ?? t('settings.allLocales'),
    ...(places ? [places.map((name) => regionTitle(site.value!.settings, name)).join(', ')] : []),
  ].join('; ')
const remove = (member: Member) =>
  act(() => site.value!.editor.removeMember(member.account), t('members.removed', { name: member.name }))
const revoke = ({ id, email }: Invitation) =>
  act(() => site.value!.editor.revokeInvitation(id), t('members.revoked', { email }))

const isInviting = ref(false)
const form = reactive<{ email: string; role: Role; locales: string[]; regions: string[] }>({
  email: '',
  role: 'editor',
  locales: [],
  regions: [],
})
const { problems, isBusy, send } = useSending()
const link = ref<{ email: string; address: string; until: string }>()

async function invite(invited: MemberLimits & { readonly email: string }): Promise<void> {
  const { email, address, expiresAt } = await site.value!.editor.invite({
    email: invited.email,
    ...limitsOf(invited),
  })
  link.value = { email, address, until: moment(expiresAt) }
}
function openForm(): void {
  Object.assign(form, { email: '', role: 'editor', locales: [], regions: [] })
  problems.value = []
  isInviting.value = true
}
async function submit(): Promise<void> {
  if (!(await send(() => invite(form)))) return
  isInviting.value = false
  await load()
}
const renew = (invitation: Invitation) => act(() => invite(invitation), '')
</script>

<template>
  <SettingsFrame :site="props.site" :trouble="trouble" @again="load">
    <h1 class="page-name">{{ t('settings.members') }}</h1>
    <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
    <RowTable
      v-if="content"
      :heads="[t('settings.name'), t('settings.role'), t('settings.limitedTo')]"
      :has-actions="mayManage"
    >
      <tr v-for="member in content.members" :key="member.account">
        <th scope="row">
          <bdi>{{ member.name }}</bdi><small v-if="member.account === me" class="quiet after">{{
            t('members.you')
          }}</small>
          <small class="quiet email">{{ member.email }}</small>
        </th>
        <td class="role">
          <ElSelect
            v-if="mayManage"
            size="small"
            :model-value="member.role"
            :aria-label="t('members.roleOf', { name: member.name })"
            @update:model-value="change(member, { role: $event as Role })"
          >
            <ElOption v-for="role in offered" :key="role" :value="role" :label="t(`roles.${role}`)" />
          </ElSelect>
          <template v-else>{{ t(`roles.${member.role}`) }}</template>
        </td>
        <td class="limits">
          <ElSelect
            v-if="mayManage"
            size="small"
            multiple
            :model-value="[...(member.locales ?? [])]"
            :placeholder="t('settings.allLocales')"
            :aria-label="t('members.localesOf', { name: member.name })"
            @update:model-value="change(member, { locales: $event as string[] })"
          >
            <ElOption v-for="tag in tags" :key="tag" :value="tag" :label="tag" />
          </ElSelect>
          <ElSelect
            v-if="mayManage && regions.length > 0"
            size="small"
            multiple
            :model-value="[...(member.regions ?? [])]"
            :placeholder="t('regions.allRegions')"
            :aria-label="t('regions.regionsOf', { name: member.name })"
            @update:model-value="change(member, { regions: $event as string[] })"
          >
            <ElOption v-for="{ name, label } in regions" :key="name" :value="name" :label="label" />
          </ElSelect>
          <template v-if="!mayManage">{{ limitWords(member) }}</template>
        </td>
        <td v-if="mayManage" class="actions">
          <ConfirmButton
            :label="t('members.removeMore')"
            :question="t('members.removeQuestion', { name: member.name })"
            :verb="t('common.remove')"
            @confirm="remove(member)"
          />
        </td>
      </tr>
    </RowTable>
    <section v-if="content" aria-labelledby="invited-head">
      <h2 id="invited-head">{{ t('members.invited') }}</h2>
      <p v-if="content.invitations.length === 0" class="quiet">{{ t('members.nobodyInvited') }}</p>
      <RowTable
        v-else
        :heads="[
          t('settings.email'),
          t('settings.role'),
          t('settings.limitedTo'),
          t('members.invitedBy'),
          t('members.link'),
        ]"
        :has-actions="mayManage"
      >
        <tr v-for="invited in content.invitations" :key="invited.id">
          <th scope="row">{{ invited.email }}</th>
          <td>{{ t(`roles.${invited.role}`) }}</td>
          <td>{{ limitWords(invited) }}</td>
          <td>
            <bdi>{{ nameOfActor(site!, invited.createdBy) }}</bdi>
          </td>
          <td>
            {{
              t(new Date(invited.expiresAt) > new Date() ? 'members.goodUntil' : 'members.expired', {
                when: moment(invited.expiresAt),
              })
            }}
          </td>
          <td v-if="mayManage" class="actions">
            <ElButton size="small" @click="renew(invited)">{{ t('members.newLink') }}</ElButton>
            <ElButton size="small" @click="revoke(invited)">{{ t('members.revoke') }}</ElButton>
          </td>
        </tr>
      </RowTable>
    </section>
  </SettingsFrame>
  <StripBar :result="result">
    <template v-if="mayManage" #end>
      <ElButton type="primary" @click="openForm">{{ t('members.inviteMore') }}</ElButton>
    </template>
  </StripBar>
  <FormSheet
    v-model="isInviting"
    :title="t('members.inviteTitle')"
    :submit="t('members.invite')"
    :problems="problems"
    :is-busy="isBusy"
    @submit="submit"
  >
    <label for="invite-email">{{ t('settings.email') }}</label>
    <ElInput id="invite-email" v-model="form.email" type="email" autofocus required />
    <label for="invite-role">{{ t('settings.role') }}</label>
    <ElSelect id="invite-role" v-model="form.role">
      <ElOption v-for="role in offered" :key="role" :value="role" :label="t(`roles.${role}`)">
        <span>{{ t(`roles.${role}`) }}</span> <small class="quiet after">{{ t(`roles.${role}May`) }}</small>
      </ElOption>
    </ElSelect>
    <p class="quiet">{{ t(`roles.${form.role}May`) }}.</p>
    <label for="invite-locales">{{ t('settings.limitedTo') }}</label>
    <ElSelect id="invite-locales" v-model="form.locales" multiple :placeholder="t('settings.allLocales')">
      <ElOption v-for="tag in tags" :key="tag" :value="tag" :label="tag" />
    </ElSelect>
    <p class="quiet">{{ t('members.limitExplained') }}</p>
    <template v-if="regions.length > 0">
      <label for="invite-regions">{{ t('regions.limitedToRegions') }}</label>
      <ElSelect id="invite-regions" v-model="form.regions" multiple :placeholder="t('regions.allRegions')">
        <ElOption v-for="{ name, label } in regions" :key="name" :value="name" :label="label" />
      </ElSelect>
    </template>
  </FormSheet>
  <OneTimeSecret
    v-if="link"
    :title="t('members.oneTimeLink')"
    :explained="t('members.linkFor', { email: link.email, until: link.until })"
    :label="t('members.oneTimeLink')"
    :value="link.address"
    @stored="link = undefined"
  />
</template>

<style scoped>
.email {
  display: block;
}
.role {
  inline-size: 150px;
}
.limits {
  inline-size: 170px;
}
.limits .el-select + .el-select {
  margin-block-start: 4px;
}
</style>
