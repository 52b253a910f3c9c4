<script setup lang="ts">
import type { PublishConsequences } from '@wisteria/client'
import { ElCheckbox } from 'element-plus'
import { computed } from 'vue'
import { problemMessage, t } from '../messages'

/** The effects of a publish beyond the entry: paths, pages, and references that can be published too. */
const { consequences, together } = defineProps<{
  consequences: PublishConsequences
  /** Entries that are to be published along. */
  together: readonly string[]
}>()
const emit = defineEmits<{ retake: [id: string, isTaken: boolean] }>()

const togetherProblems = computed(() =>
  consequences.together.flatMap((entry) => entry.problems.map((problem) => ({ ...problem, of: entry }))),
)
/** Entries that can be published too: references that are not public, its parent, and those chosen already. */
const offered = computed(() => {
  const hidden = consequences.hiddenReferences
  const taken = consequences.together.filter((entry) => !hidden.some((other) => other.id === entry.id))
  return [...hidden, ...taken]
})
</script>

<template>
  <section :aria-label="t('publishing.whatItTouches')">
    <template v-if="Object.keys(consequences.paths).length > 0">
      <h3>{{ t('publishing.paths') }}</h3>
      <ul class="paths">
        <li v-for="(path, locale) in consequences.paths" :key="locale">
          {{ locale }}
          <bdi dir="ltr"
            ><code v-if="path.from" class="gone">{{ path.from }}</code> <code v-if="path.to">{{ path.to }}</code></bdi
          >
          <small v-if="path.from" class="quiet">{{
            path.to ? t('publishing.oldPathRedirects') : t('publishing.noPathAnyMore')
          }}</small>
        </li>
      </ul>
    </template>
    <template v-if="consequences.affects.length > 0">
      <h3>{{ t('publishing.affectedPages') }}</h3>
      <ul>
        <li v-for="page in consequences.affects" :key="page.id">
          <bdi>{{ page.title }}</bdi>
          <small class="quiet">{{
            page.because === 'below' ? t('publishing.standsBelow') : t('publishing.refersToIt')
          }}</small>
        </li>
      </ul>
    </template>
    <template v-if="offered.length > 0">
      <h3>{{ t('publishing.notPublic') }}</h3>
      <p class="quiet">
        {{ t('publishing.together') }}
      </p>
      <ul>
        <li v-for="candidate in offered" :key="candidate.id">
          <ElCheckbox
            :model-value="together.includes(candidate.id)"
            @change="(is) => emit('retake', candidate.id, is === true)"
            ><bdi>{{ candidate.title || t('common.noName') }}</bdi>
            <small class="quiet">{{ candidate.type }}</small></ElCheckbox
          >
        </li>
      </ul>
      <p v-for="problem in togetherProblems" :key="problem.of.id + problem.message" class="error-text">
        “{{ problem.of.title }}”: {{ problemMessage(problem) }}
      </p>
    </template>
    <p
      v-if="
        Object.keys(consequences.paths).length + consequences.affects.length + consequences.hiddenReferences.length ===
        0
      "
      class="quiet"
    >
      {{ t('publishing.nothingElse') }}
    </p>
  </section>
</template>

<style scoped>
.paths li {
  padding: 2px 0;
}
li small {
  margin-inline-start: 6px;
}
</style>
