<script setup lang="ts">
import type { ManagedAccount, PasswordLink } from '@wisteria/client'
import { ElButton, ElInput, ElPopconfirm } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import { forgetSites, service, session } from '../session'
import { moment } from '../times'
import { messagesOf, t } from '../messages'
import { useSending } from '../sending'

/** One's own password and sessions; and, for owners and operators, the accounts that they manage. */
const router = useRouter()
const me = computed(() => session.value!.account)
const form = reactive({ current: '', password: '' })
const { problems, isBusy, send } = useSending()
const result = ref('')

async function changePassword(): Promise<void> {
  result.value = ''
  if (!(await send(() => service.changePassword({ ...form })))) return
  form.current = form.password = ''
  result.value = t('account.passwordChanged')
}

async function signOutEverywhere(): Promise<void> {
  await service.signOutEverywhere()
  session.value = null
  forgetSites()
  await router.push({ name: 'sign-in' })
}

const accounts = ref<readonly ManagedAccount[]>([])
const trouble = ref<unknown>()
const link = ref<{ account: ManagedAccount; link: PasswordLink }>()
const refused = ref('')
const others = computed(() => accounts.value.filter(({ id }) => id !== me.value.id))

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    accounts.value = (await service.accounts()).accounts
  } catch (error) {
    trouble.value = error
  }
}
void load()

async function manage(work: () => Promise<void>): Promise<void> {
  refused.value = ''
  link.value = undefined
  try {
    await work()
  } catch (error) {
    refused.value = messagesOf(error).join(' ')
  }
}
const makeLink = (account: ManagedAccount) =>
  manage(async () => void (link.value = { account, link: await service.makePasswordLink(account.id) }))
const setDisabled = (account: ManagedAccount, disabled: boolean) =>
  manage(async () => {
    await service.setAccountDisabled(account.id, disabled)
    await load()
  })
const sitesOf = ({ sites, operator }: ManagedAccount): string =>
  [...sites.map(({ name, role }) => `${name} (${role})`), ...(operator ? ['operator'] : [])].join(', ') ||
  t('account.noSite')
</script>

<template>
  <main class="account" data-region="work">
    <h1 class="serif">{{ me.name }}</h1>
    <p class="quiet">{{ me.email }}</p>
    <section aria-labelledby="password-head">
      <h2 id="password-head">{{ t('account.changeYourPassword') }}</h2>
      <form @submit.prevent="changePassword">
        <input
          type="text"
          class="visually-hidden"
          :value="me.email"
          autocomplete="username"
          tabindex="-1"
          readonly
          aria-hidden="true"
        />
        <label for="current">{{ t('account.currentPassword') }}</label>
        <ElInput id="current" v-model="form.current" type="password" autocomplete="current-password" required />
        <label for="new">{{ t('account.newPassword') }}</label>
        <ElInput id="new" v-model="form.password" type="password" autocomplete="new-password" required />
        <p v-for="problem in problems" :key="problem" class="error-text" role="alert">{{ problem }}</p>
        <p v-if="result" role="status">{{ result }}</p>
        <ElButton type="primary" native-type="submit" :loading="isBusy">{{ t('account.changePassword') }}</ElButton>
      </form>
    </section>
    <section aria-labelledby="sessions-head">
      <h2 id="sessions-head">{{ t('account.sessions') }}</h2>
      <p>{{ t('account.endsAll') }}</p>
      <ElPopconfirm
        :title="t('account.signOutEverywhereQuestion')"
        :confirm-button-text="t('account.signOutEverywhere')"
        :cancel-button-text="t('common.cancel')"
        width="240"
        @confirm="signOutEverywhere"
      >
        <template #reference
          ><ElButton>{{ t('account.signOutEverywhereMore') }}</ElButton></template
        >
      </ElPopconfirm>
    </section>
    <PageTrouble v-if="trouble" :error="trouble" @again="load" />
    <section v-else-if="others.length > 0" aria-labelledby="managed-head">
      <h2 id="managed-head">{{ t('account.managed') }}</h2>
      <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
      <div v-if="link" class="link" role="status">
        <p>
          {{ t('account.sendLink', { name: link.account.name, until: moment(link.link.expiresAt) }) }}
        </p>
        <ElInput :model-value="link.link.address" readonly :aria-label="t('account.oneTimeLink')" />
      </div>
      <table>
        <thead>
          <tr>
            <th scope="col">{{ t('account.name') }}</th>
            <th scope="col">{{ t('account.email') }}</th>
            <th scope="col">{{ t('account.sites') }}</th>
            <th scope="col">
              <span class="visually-hidden">{{ t('account.actions') }}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="account in others" :key="account.id">
            <td>
              <bdi>{{ account.name }}</bdi>
              <small v-if="account.disabledAt" class="quiet after">
                {{ t('account.disabledAt', { when: moment(account.disabledAt) }) }}</small
              >
            </td>
            <td>{{ account.email }}</td>
            <td>{{ sitesOf(account) }}</td>
            <td class="actions">
              <template v-if="account.disabledAt === null">
                <ElButton size="small" @click="makeLink(account)">{{ t('account.makeLink') }}</ElButton>
                <ElPopconfirm
                  :title="t('account.disableQuestion', { name: account.name })"
                  :confirm-button-text="t('account.disable')"
                  confirm-button-type="danger"
                  :cancel-button-text="t('common.cancel')"
                  width="260"
                  @confirm="setDisabled(account, true)"
                >
                  <template #reference
                    ><ElButton size="small">{{ t('account.disableMore') }}</ElButton></template
                  >
                </ElPopconfirm>
              </template>
              <ElButton v-else size="small" @click="setDisabled(account, false)">{{ t('account.enable') }}</ElButton>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  </main>
  <StripBar />
</template>

<style scoped>
.account {
  padding: 32px 24px 48px;
  overflow: auto;
}
h1 {
  font-size: 24px;
  line-height: 32px;
}
section {
  margin-block-start: 32px;
  max-inline-size: 960px;
}
h2 {
  font-size: 15px;
  font-weight: 600;
  margin-block-end: 8px;
}
form {
  display: grid;
  gap: 4px;
  max-inline-size: 400px;
}
label {
  margin-block-start: 8px;
  font-size: 13px;
  color: var(--w-ink2);
}
form .el-button {
  justify-self: start;
  margin-block-start: 16px;
}
section > .el-button {
  margin-block-start: 8px;
}
.link {
  margin-block-end: 16px;
}
table {
  inline-size: 100%;
  border-collapse: collapse;
}
th,
td {
  text-align: start;
  padding: 8px 16px 8px 0;
  border-block-end: 1px solid var(--w-hair);
}
th {
  font-size: 13px;
  font-weight: 500;
  color: var(--w-ink2);
}
.actions .el-button + .el-button {
  margin-inline-start: 8px;
}
.actions {
  text-align: end;
  white-space: nowrap;
  padding-inline-end: 0;
}
</style>
