<script setup lang="ts">
import { Translation } from 'vue-i18n'
import { i18n, isForeign, type MessageKey } from '../messages'

/** A text whose parameters are elements: one slot for each. `n` chooses the form of a plural. */
const { of, n } = defineProps<{ of: MessageKey; n?: number }>()
</script>

<template>
  <Translation
    :keypath="of"
    :plural="n"
    :i18n="i18n.global"
    scope="global"
    :tag="isForeign(of) ? 'bdi' : undefined"
    :dir="isForeign(of) ? 'ltr' : undefined"
  >
    <template v-for="(_, name) in $slots" #[name]><slot :name="name" /></template>
  </Translation>
</template>
