<script setup lang="ts">
import type { Offer } from '@wisteria/client'
import { ElInput } from 'element-plus'
import { computed, onMounted, reactive, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import BareForm from '../components/BareForm.vue'
import { forgetSites, loadSession, service, session } from '../session'
import { useSending } from '../sending'
import UsernameField from '../components/UsernameField.vue'
import { t } from '../messages'

/** The page of an invitation: somebody becomes a member, with an account of their own, and is signed in. */
const route = useRoute()
const router = useRouter()
const code = route.hash.slice(1)
const offer = ref<Offer>()
const form = reactive({ name: '', password: '' })
const { problems, isBusy, send } = useSending(code === '' ? [t('signIn.incomplete')] : [])
const isSignedIn = computed(() => offer.value !== undefined && session.value?.account.email === offer.value.email)

onMounted(async () => {
  if (code === '') return
  await send(async () => {
    offer.value = await service.invitation(code)
    await loadSession()
  })
})

async function join(): Promise<void> {
  const { name, password } = form
  const isDone = await send(async () => {
    session.value = await service.acceptInvitation({
      code,
      ...(offer.value?.hasAccount ? {} : { name }),
      ...(isSignedIn.value ? {} : { password }),
    })
  })
  if (!isDone) return
  forgetSites()
  await router.replace({ name: 'entries', params: { site: offer.value!.site.name } })
}
</script>

<template>
  <BareForm
    :title="t('invitation.title', { site: offer?.site.label ?? t('shell.wisteria') })"
    :submit="t('invitation.join')"
    :problems="problems"
    :is-busy="isBusy"
    :disabled="!offer"
    @submit="join"
  >
    <template v-if="offer">
      <p>
        {{ t('invitation.as', { role: t(`roles.${offer.role}`) }) }}
        <template v-if="offer.locales">{{ t('invitation.limited', { locales: offer.locales.join(', ') }) }}</template>
      </p>
      <p v-if="isSignedIn" class="quiet">{{ t('invitation.signedIn', { name: session!.account.name }) }}</p>
      <template v-else>
        <p class="quiet">
          {{ offer.hasAccount ? t('invitation.hasAccount', { email: offer.email }) : offer.email }}
        </p>
        <UsernameField :email="offer.email" />
        <template v-if="!offer.hasAccount">
          <label for="name">{{ t('invitation.yourName') }}</label>
          <ElInput id="name" v-model="form.name" autocomplete="name" maxlength="120" autofocus required />
        </template>
        <label for="password">{{ t(offer.hasAccount ? 'signIn.password' : 'setUp.password') }}</label>
        <ElInput
          id="password"
          v-model="form.password"
          type="password"
          :autocomplete="offer.hasAccount ? 'current-password' : 'new-password'"
          :minlength="offer.hasAccount ? undefined : 12"
          :autofocus="offer.hasAccount"
          required
        />
      </template>
    </template>
  </BareForm>
</template>
