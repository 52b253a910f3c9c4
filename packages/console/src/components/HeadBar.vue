<script setup lang="ts">
import { decide } from '@wisteria/core'
import { ArrowDown, User } from '@element-plus/icons-vue'
import { ElDropdown, ElDropdownItem, ElDropdownMenu, ElIcon } from 'element-plus'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import GoTo from './GoTo.vue'
import { showsLastActs } from '../lastActs/lastActs'
import LastActsSheet from '../lastActs/LastActsSheet.vue'
import { initialsOf, presentPeople } from '../presentPeople'
import { callerOn, forgetSites, service, session } from '../session'
import { sectionRoutes } from '../site/sections'
import { t } from '../messages'

const route = useRoute()
const router = useRouter()
const sites = computed(() => session.value?.sites ?? [])
const site = computed(() => sites.value.find((candidate) => candidate.name === route.params['site']) ?? sites.value[0])
/** The areas of a site, writing first, building second. */
const areas = computed(() => {
  const to = (name: string) => ({ name, params: { site: site.value?.name } })
  const isAt = (...names: readonly string[]) => names.includes(String(route.name))
  return {
    writing: [
      { label: t('shell.today'), to: to('today'), isHere: isAt('today') },
      {
        label: t('shell.entries'),
        to: to('entries'),
        isHere: isAt(
          'entries',
          'counterparts',
          'source',
          'entry',
          'new',
          'compare',
          'tree',
          'bin',
          'imports',
          'import',
        ),
      },
      { label: t('shell.assets'), to: to('assets'), isHere: isAt('assets') },
      {
        label: t('shell.translations'),
        to: to('translations'),
        isHere: isAt('translations', 'translate', 'glossary', 'orders'),
      },
    ],
    building: [
      { label: t('shell.model'), to: to('model'), isHere: isAt('model', 'model-type') },
      { label: t('shell.query'), to: to('query'), isHere: isAt('query', 'api') },
      ...(maySet.value ? [{ label: t('shell.site'), to: to('locales'), isHere: isAt(...sectionRoutes) }] : []),
    ],
  }
})
const maySet = computed(() => decide(callerOn(site.value), 'settings.change').allowed)

async function signOut(): Promise<void> {
  await service.signOut()
  session.value = null
  forgetSites()
  await router.push({ name: 'sign-in' })
}
</script>

<template>
  <header class="head" data-region="head">
    <ElDropdown v-if="sites.length > 1" class="of-site" trigger="click">
      <button class="plain site serif" dir="auto">
        {{ site?.label }} <ElIcon aria-hidden="true"><ArrowDown /></ElIcon>
      </button>
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
    <RouterLink v-else class="of-site site serif" dir="auto" to="/">{{
      site?.label ?? t('shell.wisteria')
    }}</RouterLink>
    <template v-if="site">
      <nav :aria-label="t('shell.areas')">
        <RouterLink v-for="area in areas.writing" :key="area.label" :to="area.to" :class="{ here: area.isHere }">{{
          area.label
        }}</RouterLink>
      </nav>
      <span class="gap" />
      <nav :aria-label="t('shell.building')">
        <RouterLink v-for="area in areas.building" :key="area.label" :to="area.to" :class="{ here: area.isHere }">{{
          area.label
        }}</RouterLink>
      </nav>
      <ElDropdown class="narrow" trigger="click">
        <button class="plain">
          {{ t('shell.menu') }} <ElIcon aria-hidden="true"><ArrowDown /></ElIcon>
        </button>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem
              v-for="area in [...areas.writing, ...areas.building]"
              :key="area.label"
              @click="router.push(area.to)"
              >{{ area.label }}</ElDropdownItem
            >
          </ElDropdownMenu>
        </template>
      </ElDropdown>
    </template>
    <span v-else class="gap" />
    <span v-if="presentPeople.length > 0" class="people">
      <span
        v-for="person in presentPeople.slice(0, 4)"
        :key="person.actor"
        class="face"
        role="img"
        :title="t('entry.isHere', { name: person.name })"
        :aria-label="t('entry.isHere', { name: person.name })"
        >{{ initialsOf(person.name) }}</span
      >
      <span v-if="presentPeople.length > 4" class="quiet">{{
        t('common.andMore', { count: presentPeople.length - 4 })
      }}</span>
    </span>
    <GoTo v-if="site" :key="site.name" :site="site.name" />
    <ElDropdown v-if="session" trigger="click">
      <button class="plain member">
        <span class="name">{{ session.account.name }}</span>
        <span class="quiet after role">{{ site && t(`roles.${site.role}`) }}</span>
        <ElIcon class="icon" :aria-label="session.account.name" role="img"><User /></ElIcon>
      </button>
      <template #dropdown>
        <ElDropdownMenu>
          <ElDropdownItem @click="router.push({ name: 'account' })">{{ t('shell.account') }}</ElDropdownItem>
          <ElDropdownItem @click="showsLastActs = true">{{ t('shell.lastActs') }}</ElDropdownItem>
          <ElDropdownItem @click="signOut">{{ t('shell.signOut') }}</ElDropdownItem>
        </ElDropdownMenu>
      </template>
    </ElDropdown>
    <LastActsSheet v-if="session" v-model="showsLastActs" :site="site?.name" />
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
.narrow,
.icon {
  display: none;
}
@media (max-width: 900px) {
  .head {
    gap: 16px;
    padding-inline: 16px;
  }
  nav,
  .name,
  .role {
    display: none;
  }
  .narrow,
  .icon {
    display: inline-flex;
  }
  .of-site {
    flex: 1;
    min-inline-size: 0;
  }
  .site {
    display: block;
    max-inline-size: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .narrow button {
    white-space: nowrap;
  }
  .gap {
    display: none;
  }
}
.member {
  white-space: nowrap;
}
.people {
  display: flex;
  gap: 4px;
}
.face {
  display: grid;
  place-items: center;
  inline-size: 28px;
  block-size: 28px;
  border-radius: 50%;
  background: var(--w-accent-wash);
  color: var(--w-accent-press);
  font-size: 12px;
  line-height: 1;
}
</style>
