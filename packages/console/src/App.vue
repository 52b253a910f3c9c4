<script setup lang="ts">
import { ElConfigProvider } from 'element-plus'
import { computed, watchEffect } from 'vue'
import { useRoute } from 'vue-router'
import HeadBar from './components/HeadBar.vue'
import SignInAgain from './components/SignInAgain.vue'
import { focusRegion } from './regions'
import { elementLanguage } from './messages'
import { useShortcuts } from './shortcuts'

const route = useRoute()
const isBare = computed(() => route.meta['bare'] === true)
watchEffect(() => document.querySelector('#app')?.classList.toggle('bare', isBare.value))

useShortcuts({ f6: () => focusRegion(1), 'shift+f6': () => focusRegion(-1) })
</script>

<template>
  <ElConfigProvider :locale="elementLanguage" :button="{ autoInsertSpace: false }">
    <HeadBar v-if="!isBare" />
    <RouterView :key="route.path" />
    <SignInAgain />
  </ElConfigProvider>
</template>
