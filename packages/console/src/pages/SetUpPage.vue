<script setup lang="ts">
import { ElInput } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import BareForm from '../components/BareForm.vue'
import { service, session } from '../session'
import { useSending } from '../sending'
import NewSiteFields from '../site/NewSiteFields.vue'
import { emptyNewSite, newSiteFrom } from '../site/newSite'
import { t } from '../messages'

const route = useRoute()
const router = useRouter()
const form = reactive({ name: '', email: '', password: '' })
const site = ref(emptyNewSite())
const { problems, isBusy, send } = useSending()
const code = computed(() => route.hash.slice(1))

async function setUp(): Promise<void> {
  const isDone = await send(async () => {
    session.value = await service.setUp({ code: code.value, ...form, site: newSiteFrom(site.value) })
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
    <NewSiteFields v-model="site" />
  </BareForm>
</template>
