<script setup lang="ts">
import { ElButton, ElDialog, ElInput } from 'element-plus'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useSending } from '../sending'
import { session } from '../session'
import { signedOut } from '../signedOut'
import { t } from '../messages'

/** The session has ended during work: people sign in here and go on, on the same page. */
const router = useRouter()
const email = computed(() => session.value?.account.email ?? '')
const isOpen = computed(() => signedOut.question.value !== undefined)
const password = ref('')
const { problems, isBusy, send } = useSending()
const field = ref<InstanceType<typeof ElInput>>()

watch(isOpen, async (now) => {
  password.value = ''
  problems.value = []
  if (!now) return
  await nextTick()
  field.value?.focus()
})

async function signIn(): Promise<void> {
  const isDone = await send(async () => {
    session.value = await signedOut.signInAs(email.value, password.value)
  })
  if (isDone) signedOut.question.value?.answer(true)
  else password.value = ''
}

/** The page is left like any page, which keeps unsaved edits in the browser: nothing can be saved first. */
function leave(): void {
  const here = router.currentRoute.value.fullPath
  location.assign(router.resolve({ name: 'sign-in', query: { to: here } }).href)
}
</script>

<template>
  <!-- In a section, so that the head of the dialog is not taken for the head of the page. -->
  <section>
    <ElDialog
      :model-value="isOpen"
      :title="t('signIn.sessionEnded')"
      width="440px"
      :show-close="false"
      :close-on-click-modal="false"
      :close-on-press-escape="false"
      :lock-scroll="false"
    >
      <form id="sign-in-again" class="again" @submit.prevent="signIn">
        <p>{{ t('signIn.continueHere') }}</p>
        <label for="again-email">{{ t('signIn.email') }}</label>
        <ElInput id="again-email" :model-value="email" autocomplete="username" readonly />
        <label for="again-password">{{ t('signIn.password') }}</label>
        <ElInput
          id="again-password"
          ref="field"
          v-model="password"
          type="password"
          autocomplete="current-password"
          required
        />
        <p v-for="problem in problems" :key="problem" class="error-text" role="alert">{{ problem }}</p>
      </form>
      <template #footer>
        <div class="buttons">
          <ElButton @click="leave">{{ t('signIn.otherAccount') }}</ElButton>
          <ElButton type="primary" native-type="submit" form="sign-in-again" :loading="isBusy">{{
            t('signIn.signIn')
          }}</ElButton>
        </div>
      </template>
    </ElDialog>
  </section>
</template>

<style scoped>
.buttons {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.again {
  display: grid;
  gap: 4px;
}
.again p {
  margin: 0;
}
label {
  margin-block-start: 12px;
  font-size: 13px;
  color: var(--w-ink2);
}
</style>
