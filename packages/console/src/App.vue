<script setup lang="ts">
import { ElConfigProvider, usePopperContainerId } from 'element-plus'
import { computed, watchEffect } from 'vue'
import { useRoute } from 'vue-router'
import HeadBar from './components/HeadBar.vue'
import SignInAgain from './components/SignInAgain.vue'
import { focusRegion } from './regions'
import { elementLanguage, t } from './messages'
import { useShortcuts } from './shortcuts'

const route = useRoute()
const isBare = computed(() => route.meta['bare'] === true)
watchEffect(() => document.querySelector('#app')?.classList.toggle('bare', isBare.value))

// Menus and lists that open are drawn in an element of their own, beside the page: it is a region too, and there from the start.
const openMenus = document.createElement('div')
openMenus.id = usePopperContainerId().id.value
openMenus.setAttribute('role', 'region')
document.body.append(openMenus)
watchEffect(() => openMenus.setAttribute('aria-label', t('shell.openMenus')))

useShortcuts({ f6: () => focusRegion(1), 'shift+f6': () => focusRegion(-1) })
</script>

<template>
  <ElConfigProvider :locale="elementLanguage" :button="{ autoInsertSpace: false }">
    <HeadBar v-if="!isBare" />
    <RouterView :key="route.path" />
    <SignInAgain />
  </ElConfigProvider>
</template>
