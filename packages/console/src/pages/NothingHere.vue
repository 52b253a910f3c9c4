<script setup lang="ts">
import StripBar from '../components/StripBar.vue'
import { t } from '../messages'
</script>

<template>
  <main class="nothing" data-region="work">
    <h1 class="serif">{{ t('shell.nothingHere') }}</h1>
    <p>
      <RouterLink to="/">{{ t('shell.goToEntries') }}</RouterLink>
    </p>
  </main>
  <StripBar />
</template>

<style scoped>
.nothing {
  padding: 64px 24px;
}
</style>
