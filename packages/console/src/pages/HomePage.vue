<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import StripBar from '../components/StripBar.vue'
import { session } from '../session'
import { t } from '../messages'

const router = useRouter()
const first = computed(() => session.value?.sites[0])
if (first.value) void router.replace({ name: 'entries', params: { site: first.value.name } })
</script>

<template>
  <main class="nothing" data-region="work">
    <template v-if="!first">
      <p>{{ t('shell.noMember') }}</p>
      <p v-if="session?.account.operator">
        <RouterLink :to="{ name: 'sites' }">{{ t('settings.sites') }}</RouterLink>
      </p>
    </template>
  </main>
  <StripBar />
</template>

<style scoped>
.nothing {
  padding: 64px 24px;
}
</style>
