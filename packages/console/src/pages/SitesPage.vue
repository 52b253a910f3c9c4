<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import StripBar from '../components/StripBar.vue'
import FormSheet from '../site/FormSheet.vue'
import NewSiteFields from '../site/NewSiteFields.vue'
import SettingsFrame from '../site/SettingsFrame.vue'
import { emptyNewSite, newSiteFrom } from '../site/newSite'
import { useSending } from '../sending'
import { loadSession, service, session } from '../session'
import RowTable from '../components/RowTable.vue'
import { t } from '../messages'

/** The sites of the service: those of the user, all of them for an operator. */
const router = useRouter()
const sites = shallowRef<Awaited<ReturnType<typeof service.sites>>['sites']>()
const trouble = shallowRef<unknown>()
const first = computed(() => session.value?.sites[0]?.name ?? '')
const mayCreate = computed(() => session.value?.account.operator === true)

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    sites.value = (await service.sites()).sites
  } catch (error) {
    trouble.value = error
  }
}
onMounted(load)

const isCreating = ref(false)
const form = ref(emptyNewSite())
const { problems, isBusy, send } = useSending()
function openForm(): void {
  form.value = emptyNewSite()
  problems.value = []
  isCreating.value = true
}
async function create(): Promise<void> {
  const site = newSiteFrom(form.value)
  if (!(await send(() => service.createSite(site)))) return
  isCreating.value = false
  await loadSession()
  await router.push({ name: 'entries', params: { site: site.name } })
}
</script>

<template>
  <SettingsFrame :site="first" :trouble="trouble" @again="load">
    <h1 class="page-name">{{ t('sites.title') }}</h1>
    <RowTable v-if="sites" :heads="[t('sites.label'), t('sites.name'), t('sites.yourRole')]">
      <tr v-for="site in sites" :key="site.name">
        <th scope="row">
          <RouterLink v-if="site.role" :to="{ name: 'entries', params: { site: site.name } }"
            ><bdi>{{ site.label }}</bdi></RouterLink
          ><bdi v-else>{{ site.label }}</bdi>
        </th>
        <td>
          <code>{{ site.name }}</code>
        </td>
        <td>
          <template v-if="site.role">{{ t(`roles.${site.role}`) }}</template><span v-else class="quiet">{{
            t('sites.notMember')
          }}</span>
        </td>
      </tr>
    </RowTable>
  </SettingsFrame>
  <StripBar>
    <template v-if="mayCreate" #end>
      <ElButton type="primary" @click="openForm">{{ t('sites.createMore') }}</ElButton>
    </template>
  </StripBar>
  <FormSheet
    v-model="isCreating"
    :title="t('sites.createTitle')"
    :submit="t('sites.create')"
    :problems="problems"
    :is-busy="isBusy"
    @submit="create"
  >
    <NewSiteFields v-model="form" />
    <p class="quiet">{{ t('sites.localesExplained') }}</p>
  </FormSheet>
</template>
