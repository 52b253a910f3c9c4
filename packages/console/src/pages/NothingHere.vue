<script setup lang="ts">
import StripBar from '../components/StripBar.vue'
</script>

<template>
  <main class="nothing" data-region="work">
    <h1 class="serif">Nothing is at this address.</h1>
    <p><RouterLink to="/">Go to the entries</RouterLink></p>
  </main>
  <StripBar />
</template>

<style scoped>
.nothing {
  padding: 64px 24px;
}
</style>
