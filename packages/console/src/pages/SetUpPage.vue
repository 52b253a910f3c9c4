<script setup lang="ts">
import { ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ownNameOf, slugFrom } from '@wisteria/core'
import BareForm from '../components/BareForm.vue'
import { service, session } from '../session'
import { useSending } from '../sending'
import { t } from '../messages'
import MessageText from '../components/MessageText.vue'

const route = useRoute()
const router = useRouter()
const form = reactive({
  name: '',
  email: '',
  password: '',
  site: '',
  locale: 'en',
  timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
})
const { problems, isBusy, send } = useSending()
const code = computed(() => route.hash.slice(1))
const siteName = computed(() =>
  slugFrom(form.site)
    .replace(/[^a-z0-9-]/g, '')
    .slice(0, 40),
)
const zones = Intl.supportedValuesOf('timeZone')

async function setUp(): Promise<void> {
  const isDone = await send(async () => {
    session.value = await service.setUp({
      code: code.value,
      email: form.email,
      name: form.name,
      password: form.password,
      site: {
        name: siteName.value,
        label: form.site,
        defaultLocale: form.locale,
        locales: [{ tag: form.locale, label: ownNameOf(form.locale), fallback: [] }],
        timeZone: form.timeZone,
      },
    })
  })
  if (isDone) await router.replace('/')
}
</script>

<template>
  <BareForm
    :title="t('setUp.title')"
    :submit="t('setUp.submit')"
    :problems="problems"
    :is-busy="isBusy"
    is-tall
    @submit="setUp"
  >
    <p class="quiet">{{ t('setUp.owner') }}</p>
    <label for="name">{{ t('setUp.name') }}</label>
    <ElInput id="name" v-model="form.name" autocomplete="name" autofocus required />
    <label for="email">{{ t('signIn.email') }}</label>
    <ElInput id="email" v-model="form.email" type="email" autocomplete="username" required />
    <label for="password">{{ t('setUp.password') }}</label>
    <ElInput
      id="password"
      v-model="form.password"
      type="password"
      autocomplete="new-password"
      minlength="12"
      required
    />
    <label for="site">{{ t('setUp.siteName') }}</label>
    <ElInput id="site" v-model="form.site" required />
    <p v-if="siteName" class="quiet">
      <MessageText of="setUp.inAddresses"
        ><template #name
          ><code>{{ siteName }}</code></template
        ></MessageText
      >
    </p>
    <label for="locale">{{ t('setUp.defaultLocale') }}</label>
    <ElInput id="locale" v-model="form.locale" placeholder="en" required />
    <label for="zone">{{ t('setUp.timeZone') }}</label>
    <ElSelect id="zone" v-model="form.timeZone" filterable>
      <ElOption v-for="zone in zones" :key="zone" :value="zone" :label="zone" />
    </ElSelect>
  </BareForm>
</template>
