<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { service, session } from '../session'

const route = useRoute()
const router = useRouter()
const email = ref('')
const password = ref('')
const error = ref('')
const isBusy = ref(false)

async function signIn(): Promise<void> {
  error.value = ''
  isBusy.value = true
  try {
    session.value = await service.signIn({ email: email.value, password: password.value })
    const to = route.query['to']
    await router.replace(typeof to === 'string' && /^\/(?!\/)/.test(to) ? to : '/')
  } catch (caught) {
    error.value = caught instanceof Error ? caught.message : String(caught)
    password.value = ''
  } finally {
    isBusy.value = false
  }
}

service
  .state()
  .then(({ waitsForOwner }) => {
    if (waitsForOwner) error.value = 'This service has no owner yet. Open the address that it printed at its start.'
  })
  .catch(() => undefined)
</script>

<template>
  <main class="desk" data-region="work">
    <form class="paper" @submit.prevent="signIn">
      <h1 class="serif">Wisteria</h1>
      <label for="email">E-mail</label>
      <ElInput id="email" v-model="email" type="email" autocomplete="username" autofocus required />
      <label for="password">Password</label>
      <ElInput id="password" v-model="password" type="password" autocomplete="current-password" required />
      <p v-if="error" class="error-text" role="alert">{{ error }}</p>
      <ElButton type="primary" native-type="submit" :loading="isBusy">Sign in</ElButton>
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
  margin-block-end: 16px;
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
