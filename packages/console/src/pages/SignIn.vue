<script setup lang="ts">
import { ElInput } from 'element-plus'
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import BareForm from '../components/BareForm.vue'
import { service, session } from '../session'
import { useSending } from '../sending'
import { t } from '../messages'

const route = useRoute()
const router = useRouter()
const email = ref('')
const password = ref('')
const { problems, isBusy, send } = useSending()

async function signIn(): Promise<void> {
  const isDone = await send(async () => {
    session.value = await service.signIn({ email: email.value, password: password.value })
  })
  if (!isDone) return void (password.value = '')
  const to = route.query['to']
  await router.replace(typeof to === 'string' && /^\/(?!\/)/.test(to) ? to : '/')
}

service
  .state()
  .then(({ waitsForOwner }) => {
    if (waitsForOwner) problems.value = [t('signIn.noOwner')]
  })
  .catch(() => undefined)
</script>

<template>
  <BareForm
    :title="t('shell.wisteria')"
    :submit="t('signIn.signIn')"
    :problems="problems"
    :is-busy="isBusy"
    @submit="signIn"
  >
    <label for="email">{{ t('signIn.email') }}</label>
    <ElInput id="email" v-model="email" type="email" autocomplete="username" autofocus required />
    <label for="password">{{ t('signIn.password') }}</label>
    <ElInput id="password" v-model="password" type="password" autocomplete="current-password" required />
  </BareForm>
</template>
