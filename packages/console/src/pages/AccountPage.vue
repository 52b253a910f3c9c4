<script setup lang="ts">
import type { ManagedAccount, PasswordLink, Session } from '@wisteria/client'
import Bowser from 'bowser'
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import TimeZoneSelect from '../components/TimeZoneSelect.vue'
import { rememberEmails } from '../lastActs/lastActs'
import { forgetSites, service, session } from '../session'
import { ago, moment } from '../times'
import ConfirmButton from '../components/ConfirmButton.vue'
import RowTable from '../components/RowTable.vue'
import UsernameField from '../components/UsernameField.vue'
import { languages, messagesOf, speak, t } from '../messages'
import { useSending } from '../sending'

/** The user's password and sessions; and, for owners and operators, the accounts that they manage. */
const router = useRouter()
const me = computed(() => session.value!.account)
/** Stands for the language or the time zone of the browser: an empty value of a list counts as nothing chosen. */
const ofBrowser = 'browser'
const about = reactive({
  name: me.value.name,
  language: me.value.language ?? ofBrowser,
  timeZone: me.value.timeZone ?? ofBrowser,
})
const saving = useSending()
const saved = ref('')
async function saveAbout(): Promise<void> {
  saved.value = ''
  const { name } = about
  const chosen = (value: string): string | null => (value === ofBrowser ? null : value)
  const isDone = await saving.send(async () => {
    const language = chosen(about.language)
    session.value = await service.changeAccount({ name, language, timeZone: chosen(about.timeZone) })
    await speak(language)
  })
  if (isDone) saved.value = t('common.savedStop')
}

const sessions = ref<readonly Session[]>([])
async function endSession({ id }: Session): Promise<void> {
  await manage(async () => {
    await service.endSession(id)
    await load()
  })
}

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
    const [managed, signedIn] = await Promise.all([service.accounts(), service.sessions()])
    accounts.value = managed.accounts
    rememberEmails(managed.accounts)
    sessions.value = signedIn.sessions
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
/** The browser and the system that a `User-Agent` names; of a program its own name. */
function programIn(agent: string | null): string {
  if (!agent) return t('account.notKnown')
  const { browser, os } = Bowser.parse(agent)
  return browser.name && os.name ? `${browser.name}, ${os.name}` : agent.split(/[ /]/)[0]!
}
const sitesOf = ({ sites, operator }: ManagedAccount): string =>
  [...sites.map(({ name, role }) => `${name} (${role})`), ...(operator ? ['operator'] : [])].join(', ') ||
  t('account.noSite')
</script>

<template>
  <main class="account" data-region="work">
    <div class="paper">
      <h1 class="serif">{{ me.name }}</h1>
      <p class="quiet">{{ me.email }}</p>
      <section aria-labelledby="about-head">
        <h2 id="about-head">{{ t('account.about') }}</h2>
        <form @submit.prevent="saveAbout">
          <label for="own-name">{{ t('account.name') }}</label>
          <ElInput id="own-name" v-model="about.name" autocomplete="name" maxlength="120" required />
          <label for="own-language">{{ t('account.language') }}</label>
          <ElSelect id="own-language" v-model="about.language">
            <ElOption :value="ofBrowser" :label="t('account.languageOfBrowser')" />
            <ElOption v-for="(label, tag) in languages" :key="tag" :value="tag" :label="label" />
          </ElSelect>
          <label for="own-zone">{{ t('account.timeZone') }}</label>
          <TimeZoneSelect id="own-zone" v-model="about.timeZone">
            <ElOption :value="ofBrowser" :label="t('account.zoneOfBrowser')" />
          </TimeZoneSelect>
          <p v-for="problem in saving.problems.value" :key="problem" class="error-text" role="alert">{{ problem }}</p>
          <p v-if="saved" role="status">{{ saved }}</p>
          <ElButton native-type="submit" :loading="saving.isBusy.value">{{ t('common.save') }}</ElButton>
        </form>
      </section>
      <section aria-labelledby="password-head">
        <h2 id="password-head">{{ t('account.changeYourPassword') }}</h2>
        <form @submit.prevent="changePassword">
          <UsernameField :email="me.email" />
          <label for="current">{{ t('account.currentPassword') }}</label>
          <ElInput id="current" v-model="form.current" type="password" autocomplete="current-password" required />
          <label for="new">{{ t('account.newPassword') }}</label>
          <ElInput id="new" v-model="form.password" type="password" autocomplete="new-password" required />
          <p v-for="problem in problems" :key="problem" class="error-text" role="alert">{{ problem }}</p>
          <p v-if="result" role="status">{{ result }}</p>
          <ElButton native-type="submit" :loading="isBusy">{{ t('account.changePassword') }}</ElButton>
        </form>
      </section>
      <section aria-labelledby="sessions-head">
        <h2 id="sessions-head">{{ t('account.sessions') }}</h2>
        <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
        <RowTable
          v-if="sessions.length > 0"
          :heads="[t('account.with'), t('account.since'), t('account.lastUsed')]"
          has-actions
        >
          <tr v-for="item in sessions" :key="item.id">
            <td :title="item.agent ?? undefined">{{ programIn(item.agent) }}</td>
            <td>{{ ago(item.createdAt) }}</td>
            <td>{{ item.seenAt ? ago(item.seenAt) : t('account.notKnown') }}</td>
            <td class="actions">
              <span v-if="item.current" class="quiet">{{ t('account.thisOne') }}</span>
              <ElButton v-else size="small" @click="endSession(item)">{{ t('account.endSession') }}</ElButton>
            </td>
          </tr>
        </RowTable>
        <p>{{ t('account.endsAll') }}</p>
        <ConfirmButton
          :label="t('account.signOutEverywhereMore')"
          :question="t('account.signOutEverywhereQuestion')"
          :verb="t('account.signOutEverywhere')"
          size="default"
          @confirm="signOutEverywhere"
        />
      </section>
      <PageTrouble v-if="trouble" :error="trouble" @again="load" />
      <section v-else-if="others.length > 0" aria-labelledby="managed-head">
        <h2 id="managed-head">{{ t('account.managed') }}</h2>
        <div v-if="link" class="link" role="status">
          <p>
            {{ t('account.sendLink', { name: link.account.name, until: moment(link.link.expiresAt) }) }}
          </p>
          <ElInput :model-value="link.link.address" readonly :aria-label="t('account.oneTimeLink')" />
        </div>
        <RowTable :heads="[t('account.name'), t('account.email'), t('account.sites')]" has-actions>
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
                <ConfirmButton
                  :label="t('account.disableMore')"
                  :question="t('account.disableQuestion', { name: account.name })"
                  :verb="t('account.disable')"
                  @confirm="setDisabled(account, true)"
                />
              </template>
              <ElButton v-else size="small" @click="setDisabled(account, false)">{{ t('account.enable') }}</ElButton>
            </td>
          </tr>
        </RowTable>
      </section>
    </div>
  </main>
  <StripBar />
</template>

<style scoped>
.account {
  padding: 24px;
  overflow: auto;
}
.paper {
  max-inline-size: 960px;
  margin-inline: auto;
  padding: 24px 32px 32px;
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
</style>
