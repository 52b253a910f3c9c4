<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { forgetSites, service, session } from '../session'
import { messagesOf } from './messages'

/** Where a one-time link leads: somebody sets a new password, and is signed in. */
const route = useRoute()
const router = useRouter()
const code = route.hash.slice(1)
const password = ref('')
const problems = ref<string[]>(code === '' ? ['This address is incomplete. Open the whole link.'] : [])
const isBusy = ref(false)

async function change(): Promise<void> {
  problems.value = []
  isBusy.value = true
  try {
    session.value = await service.usePasswordLink({ code, password: password.value })
    forgetSites()
    await router.replace('/')
  } catch (error) {
    problems.value = messagesOf(error)
  } finally {
    isBusy.value = false
  }
}
</script>

<template>
  <main class="desk" data-region="work">
    <form class="paper" @submit.prevent="change">
      <h1 class="serif">Set a new password</h1>
      <p class="quiet">Your other sessions will end.</p>
      <label for="password">New password (at least 12 characters)</label>
      <ElInput id="password" v-model="password" type="password" autocomplete="new-password" autofocus required />
      <p v-for="problem in problems" :key="problem" class="error-text" role="alert">{{ problem }}</p>
      <ElButton type="primary" native-type="submit" :loading="isBusy" :disabled="code === ''">Set password</ElButton>
    </form>
  </main>
</template>

<style scoped>
.desk {
  padding-block-start: max(24px, calc(33vh - 120px));
  padding-inline-start: 160px;
  overflow: auto;
}
form {
  inline-size: 400px;
  padding: 40px;
  display: grid;
  gap: 4px;
}
h1 {
  font-size: 30px;
  line-height: 38px;
  margin-block-end: 8px;
}
label {
  margin-block-start: 12px;
  font-size: 13px;
  color: var(--w-ink2);
}
.el-button {
  margin-block-start: 24px;
  justify-self: start;
}
@media (max-width: 720px) {
  .desk {
    padding-inline: 24px;
  }
  form {
    inline-size: 100%;
  }
}
</style>
