<script setup lang="ts">
import { ElInput } from 'element-plus'
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import BareForm from '../components/BareForm.vue'
import { forgetSites, service, session } from '../session'
import { useSending } from '../sending'
import { t } from '../messages'

/** The page of a password link: somebody sets a new password, and is signed in. */
const route = useRoute()
const router = useRouter()
const code = route.hash.slice(1)
const password = ref('')
const { problems, isBusy, send } = useSending(code === '' ? [t('signIn.incomplete')] : [])

async function change(): Promise<void> {
  const isDone = await send(async () => {
    session.value = await service.usePasswordLink({ code, password: password.value })
  })
  if (!isDone) return
  forgetSites()
  await router.replace('/')
}
</script>

<template>
  <BareForm
    :title="t('signIn.setNewPassword')"
    :submit="t('signIn.setPassword')"
    :problems="problems"
    :is-busy="isBusy"
    :disabled="code === ''"
    @submit="change"
  >
    <p class="quiet">{{ t('signIn.otherSessionsEnd') }}</p>
    <label for="password">{{ t('account.newPassword') }}</label>
    <ElInput id="password" v-model="password" type="password" autocomplete="new-password" autofocus required />
  </BareForm>
</template>
