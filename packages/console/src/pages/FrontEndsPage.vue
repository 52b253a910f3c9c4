<script setup lang="ts">
import type { FrontEnd } from '@wisteria/client'
import { slugFrom } from '@wisteria/core'
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { useActs } from '../acts'
import MessageText from '../components/MessageText.vue'
import StripBar from '../components/StripBar.vue'
import FormSheet from '../site/FormSheet.vue'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'
import { useSending } from '../sending'
import ConfirmButton from '../components/ConfirmButton.vue'
import { t } from '../messages'

/** The front ends of the site: where they are served from, and where previews enter them. */
const props = defineProps<{ site: string }>()
const { site, content, trouble, load } = useSettings(
  props.site,
  async ({ editor }) => (await editor.frontEnds()).frontEnds,
)
const { result, refused, act } = useActs(load)
const labelOf = (type: string): string =>
  type === '*' ? t('frontEnds.otherTypes') : (site.value?.model.types.find(({ name }) => name === type)?.label ?? type)
const remove = ({ name, label }: FrontEnd) =>
  act(() => site.value!.editor.removeFrontEnd(name), t('frontEnds.removed', { label }))

interface Form {
  label: string
  name: string
  origins: string
  enter: { type: string; address: string }[]
}
const originExample = 'https://marram.example'
const enterExample = `${originExample}/preview?path={path}&code={code}`
const isOpen = ref(false)
/** The front end that is being changed; undefined for a new one. */
const changing = ref<FrontEnd>()
const form = reactive<Form>({ label: '', name: '', origins: '', enter: [] })
const hasOwnName = ref(false)
const { problems, isBusy, send } = useSending()
const free = computed(() =>
  ['*', ...(site.value?.model.types.map(({ name }) => name) ?? [])].filter(
    (type) => !form.enter.some((line) => line.type === type),
  ),
)

function openForm(frontEnd?: FrontEnd): void {
  changing.value = frontEnd
  hasOwnName.value = frontEnd !== undefined
  Object.assign(form, {
    label: frontEnd?.label ?? '',
    name: frontEnd?.name ?? '',
    origins: frontEnd?.origins.join('\n') ?? '',
    enter: Object.entries(frontEnd?.enter ?? { '*': '' }).map(([type, address]) => ({ type, address })),
  })
  problems.value = []
  isOpen.value = true
}
function setLabel(label: string): void {
  form.label = label
  if (!hasOwnName.value)
    form.name = slugFrom(label)
      .replace(/[^a-z0-9-]/g, '')
      .slice(0, 40)
}
const linesOf = (text: string): string[] => [...new Set(text.split(/\s+/).filter((line) => line !== ''))]
async function submit(): Promise<void> {
  const { label, name, origins, enter } = form
  const isDone = await send(() =>
    site.value!.editor.setFrontEnd(name, {
      label,
      origins: linesOf(origins),
      enter: Object.fromEntries(
        enter.filter(({ address }) => address.trim()).map((line) => [line.type, line.address.trim()]),
      ),
    }),
  )
  if (!isDone) return
  isOpen.value = false
  await load()
  result.value = t('frontEnds.saved', { label })
}
</script>

<template>
  <SettingsFrame :site="props.site" :trouble="trouble" @again="load">
    <h1 class="page-name">{{ t('settings.frontEnds') }}</h1>
    <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
    <p v-if="content?.length === 0" class="content">{{ t('frontEnds.none') }}</p>
    <section v-for="frontEnd in content" :key="frontEnd.name" class="front-end" :aria-label="frontEnd.label">
      <div class="head">
        <h2>
          <bdi>{{ frontEnd.label }}</bdi> <code class="quiet after">{{ frontEnd.name }}</code>
        </h2>
        <ElButton size="small" @click="openForm(frontEnd)">{{ t('frontEnds.changeMore') }}</ElButton>
        <ConfirmButton
          :label="t('frontEnds.removeMore')"
          :question="t('frontEnds.removeQuestion', { label: frontEnd.label })"
          :verb="t('common.remove')"
          @confirm="remove(frontEnd)"
        />
      </div>
      <dl>
        <dt>{{ t('frontEnds.origins') }}</dt>
        <dd v-for="origin in frontEnd.origins" :key="origin">
          <bdi dir="ltr"
            ><code>{{ origin }}</code></bdi
          >
        </dd>
        <dt>{{ t('frontEnds.enter') }}</dt>
        <dd v-for="(address, type) in frontEnd.enter" :key="type">
          {{ labelOf(String(type)) }}
          <bdi dir="ltr"
            ><code>{{ address }}</code></bdi
          >
        </dd>
        <dd v-if="Object.keys(frontEnd.enter).length === 0" class="quiet">{{ t('frontEnds.noPreview') }}</dd>
      </dl>
    </section>
  </SettingsFrame>
  <StripBar :result="result">
    <template v-if="content" #end>
      <ElButton type="primary" @click="openForm()">{{ t('frontEnds.addMore') }}</ElButton>
    </template>
  </StripBar>
  <FormSheet
    v-model="isOpen"
    :title="changing ? t('frontEnds.changeTitle', { label: changing.label }) : t('frontEnds.addTitle')"
    :submit="changing ? t('frontEnds.save') : t('frontEnds.add')"
    :problems="problems"
    :is-busy="isBusy"
    @submit="submit"
  >
    <label for="front-end-label">{{ t('frontEnds.label') }}</label>
    <ElInput
      id="front-end-label"
      :model-value="form.label"
      :placeholder="t('frontEnds.labelExample')"
      maxlength="120"
      autofocus
      required
      @update:model-value="setLabel"
    />
    <template v-if="!changing">
      <label for="front-end-name">{{ t('frontEnds.name') }}</label>
      <ElInput id="front-end-name" v-model="form.name" dir="ltr" maxlength="40" required @input="hasOwnName = true" />
      <p class="quiet">{{ t('frontEnds.nameExplained') }}</p>
    </template>
    <label for="front-end-origins">{{ t('frontEnds.origins') }}</label>
    <ElInput
      id="front-end-origins"
      v-model="form.origins"
      type="textarea"
      dir="ltr"
      autosize
      :placeholder="originExample"
      required
    />
    <p class="quiet">{{ t('frontEnds.originsExplained') }}</p>
    <span class="label">{{ t('frontEnds.enter') }}</span>
    <div v-for="(line, index) in form.enter" :key="index" class="line">
      <ElSelect v-model="line.type" :aria-label="t('frontEnds.typeAt', { n: index + 1 })">
        <ElOption :value="line.type" :label="labelOf(line.type)" />
        <ElOption v-for="type in free" :key="type" :value="type" :label="labelOf(type)" />
      </ElSelect>
      <ElInput
        v-model="line.address"
        dir="ltr"
        :aria-label="t('frontEnds.addressOf', { type: labelOf(line.type) })"
        :placeholder="enterExample"
      />
      <ElButton
        size="small"
        :aria-label="t('controls.removeNamed', { name: labelOf(line.type) })"
        @click="form.enter.splice(index, 1)"
        >{{ t('common.remove') }}</ElButton
      >
    </div>
    <ElButton
      v-if="free.length > 0"
      size="small"
      class="more"
      @click="form.enter.push({ type: free[0]!, address: '' })"
      >{{ t('frontEnds.addAddress') }}</ElButton
    >
    <p class="quiet">
      <MessageText of="frontEnds.enterExplained"
        ><template #placeholders><code v-text="'{path} {slug} {locale} {id}'" /></template
        ><template #code><code v-text="'{code}'" /></template
      ></MessageText>
    </p>
  </FormSheet>
</template>

<style scoped>
.front-end + .front-end {
  padding-block-start: 24px;
  border-block-start: 1px solid var(--w-hair);
}
.head {
  display: flex;
  align-items: center;
  gap: 8px;
}
.head h2 {
  flex: 1;
}
dl {
  margin: 0;
}
dt {
  margin-block-start: 8px;
  font-size: 13px;
  color: var(--w-ink2);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.line {
  display: grid;
  grid-template-columns: 160px 1fr auto;
  align-items: center;
  gap: 8px;
  margin-block-end: 4px;
}
.more {
  justify-self: start;
}
</style>
