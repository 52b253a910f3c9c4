<script setup lang="ts">
import { decide } from '@wisteria/core'
import { ElDropdown, ElDropdownItem, ElDropdownMenu } from 'element-plus'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import GoTo from './GoTo.vue'
import { callerOn, forgetSites, service, session } from '../session'
import { t } from '../messages'

const route = useRoute()
const router = useRouter()
const sites = computed(() => session.value?.sites ?? [])
const site = computed(() => sites.value.find((candidate) => candidate.name === route.params['site']) ?? sites.value[0])
const mayBuild = computed(() => decide(callerOn(site.value), 'model.change').allowed)

async function signOut(): Promise<void> {
  await service.signOut()
  session.value = null
  forgetSites()
  await router.push({ name: 'sign-in' })
}
</script>

<template>
  <header class="head" data-region="head">
    <ElDropdown v-if="sites.length > 1" trigger="click">
      <button class="plain site serif">{{ site?.label }} ▾</button>
      <template #dropdown>
        <ElDropdownMenu>
          <ElDropdownItem
            v-for="option in sites"
            :key="option.name"
            @click="router.push({ name: 'entries', params: { site: option.name } })"
          >
            {{ option.label }}
          </ElDropdownItem>
        </ElDropdownMenu>
      </template>
    </ElDropdown>
    <RouterLink v-else class="site serif" to="/">{{ site?.label ?? t('shell.wisteria') }}</RouterLink>
    <nav v-if="site" :aria-label="t('shell.areas')">
      <RouterLink :to="{ name: 'today', params: { site: site.name } }" :class="{ here: route.name === 'today' }">{{
        t('shell.today')
      }}</RouterLink>
      <RouterLink
        :to="{ name: 'entries', params: { site: site.name } }"
        :class="{ here: ['entries', 'entry', 'new', 'compare', 'tree', 'bin'].includes(String(route.name)) }"
      >
        {{ t('shell.entries') }}
      </RouterLink>
      <RouterLink :to="{ name: 'assets', params: { site: site.name } }" :class="{ here: route.name === 'assets' }">{{
        t('shell.assets')
      }}</RouterLink>
    </nav>
    <span class="gap" />
    <nav v-if="site" :aria-label="t('shell.building')">
      <RouterLink
        :to="{ name: 'model', params: { site: site.name } }"
        :class="{ here: ['model', 'model-type'].includes(String(route.name)) }"
        >{{ t('shell.model') }}</RouterLink
      >
      <RouterLink
        :to="{ name: 'query', params: { site: site.name } }"
        :class="{ here: ['query', 'api'].includes(String(route.name)) }"
        >{{ t('shell.query') }}</RouterLink
      >
      <RouterLink
        v-if="mayBuild"
        :to="{ name: 'locales', params: { site: site.name } }"
        :class="{ here: route.name === 'locales' }"
        >{{ t('shell.site') }}</RouterLink
      >
    </nav>
    <GoTo v-if="site" :key="site.name" :site="site.name" />
    <ElDropdown v-if="session" trigger="click">
      <button class="plain member">
        {{ session.account.name }} <span class="quiet">{{ site?.role }}</span>
      </button>
      <template #dropdown>
        <ElDropdownMenu>
          <ElDropdownItem @click="router.push({ name: 'account' })">{{ t('shell.account') }}</ElDropdownItem>
          <ElDropdownItem @click="signOut">{{ t('shell.signOut') }}</ElDropdownItem>
        </ElDropdownMenu>
      </template>
    </ElDropdown>
  </header>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 24px;
  padding-inline: 24px;
  border-block-end: 1px solid var(--w-hair);
}
.site {
  font-size: 17px;
  font-weight: 600;
  color: var(--w-ink);
  text-decoration: none;
  white-space: nowrap;
}
nav {
  display: flex;
  gap: 16px;
  block-size: 100%;
}
nav a {
  display: flex;
  align-items: center;
  color: var(--w-ink2);
  text-decoration: none;
  border-block-end: 2px solid transparent;
}
nav a.here {
  color: var(--w-accent);
  border-color: var(--w-accent);
}
.gap {
  flex: 1;
}
.member {
  white-space: nowrap;
}
</style>
