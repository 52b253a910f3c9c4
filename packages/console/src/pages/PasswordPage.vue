<script setup lang="ts">
import { ElInput } from 'element-plus'
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import BareForm from '../components/BareForm.vue'
import { forgetSites, service, session } from '../session'
import { useSending } from '../sending'

/** Where a one-time link leads: somebody sets a new password, and is signed in. */
const route = useRoute()
const router = useRouter()
const code = route.hash.slice(1)
const password = ref('')
const { problems, isBusy, send } = useSending(code === '' ? ['This address is incomplete. Open the whole link.'] : [])

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
    title="Set a new password"
    submit="Set password"
    :problems="problems"
    :is-busy="isBusy"
    :disabled="code === ''"
    @submit="change"
  >
    <p class="quiet">Your other sessions will end.</p>
    <label for="password">New password (at least 12 characters)</label>
    <ElInput id="password" v-model="password" type="password" autocomplete="new-password" autofocus required />
  </BareForm>
</template>
