<script setup lang="ts">
import type { Region, SiteRegions } from '@wisteria/client'
import { ElButton, ElInput } from 'element-plus'
import { onMounted, reactive, ref, shallowRef } from 'vue'
import ConfirmButton from '../components/ConfirmButton.vue'
import RowTable from '../components/RowTable.vue'
import { messageOf, t } from '../messages'
import type { Site } from '../session'

/** The regions of a site: each change is saved at once. */
const { site, disabled } = defineProps<{ site: Site; disabled: boolean }>()
const emit = defineEmits<{ changed: [message: string] }>()
const found = shallowRef<SiteRegions & { readonly version: string }>()
const labels = reactive<Record<string, string>>({})
const added = reactive({ name: '', label: '' })
const refused = ref('')

async function load(): Promise<void> {
  try {
    found.value = await site.editor.counterparts.regions()
    for (const { name, label } of found.value.regions) labels[name] = label
  } catch (error) {
    refused.value = messageOf(error)
  }
}
onMounted(load)

async function change(regions: readonly Region[], done: string): Promise<boolean> {
  refused.value = ''
  try {
    await site.editor.counterparts.setRegions(regions, found.value!.version)
    emit('changed', done)
    return true
  } catch (error) {
    refused.value = messageOf(error)
    return false
  } finally {
    await load()
  }
}
async function add(): Promise<void> {
  const name = added.name.trim()
  if (name === '') return
  const label = added.label.trim() || name
  if (await change([...found.value!.regions, { name, label }], t('regions.added', { name })))
    Object.assign(added, { name: '', label: '' })
}
const remove = (name: string) =>
  change(
    found.value!.regions.filter((region) => region.name !== name),
    t('regions.removed', { name }),
  )
const saveLabel = (name: string) =>
  change(
    found.value!.regions.map((region) => (region.name === name ? { name, label: labels[name] ?? '' } : region)),
    t('regions.labelled', { name, label: labels[name] ?? '' }),
  )
</script>

<template>
  <section v-if="found && (found.regions.length > 0 || !disabled)">
    <h2>{{ t('regions.title') }}</h2>
    <p>{{ t('regions.explained') }}</p>
    <p v-if="found.types.length === 0" class="quiet">{{ t('regions.noTypes') }}</p>
    <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
    <RowTable
      v-if="found.regions.length > 0"
      :heads="[t('regions.name'), t('regions.label'), t('regions.entries')]"
      :has-actions="!disabled"
    >
      <tr v-for="{ name, label, entries } in found.regions" :key="name">
        <th scope="row">
          <bdi dir="ltr"
            ><code>{{ name }}</code></bdi
          >
        </th>
        <td>
          <ElInput
            v-model="labels[name]"
            :aria-label="t('regions.labelOf', { name })"
            :disabled="disabled"
            maxlength="80"
            @keyup.enter="saveLabel(name)"
          />
        </td>
        <td>{{ entries }}</td>
        <td v-if="!disabled" class="actions">
          <ElButton v-if="labels[name] !== label" size="small" @click="saveLabel(name)">{{
            t('regions.saveLabel')
          }}</ElButton>
          <span v-if="entries > 0" class="quiet">{{ t('regions.hasEntries') }}</span>
          <ConfirmButton
            v-else
            :label="t('common.remove')"
            :question="t('regions.removeQuestion', { name })"
            :verb="t('common.remove')"
            @confirm="remove(name)"
          />
        </td>
      </tr>
    </RowTable>
    <p v-else class="quiet">{{ t('regions.none') }}</p>
    <form v-if="!disabled" class="add" @submit.prevent="add">
      <label for="region-name">{{ t('regions.name') }}</label>
      <ElInput
        id="region-name"
        v-model="added.name"
        dir="ltr"
        maxlength="40"
        :placeholder="t('regions.namePlaceholder')"
      />
      <label for="region-label">{{ t('regions.label') }}</label>
      <ElInput id="region-label" v-model="added.label" maxlength="80" />
      <ElButton native-type="submit">{{ t('regions.add') }}</ElButton>
    </form>
  </section>
</template>

<style scoped>
.add {
  display: grid;
  grid-template-columns: minmax(120px, 200px) minmax(120px, 260px) auto;
  grid-auto-flow: column;
  grid-template-rows: auto auto;
  gap: 4px 12px;
  align-items: center;
  justify-content: start;
  margin-block-start: 12px;
}
.add label {
  font-size: 13px;
  color: var(--w-ink2);
}
.add button {
  grid-row: 2;
}
@media (max-width: 600px) {
  .add {
    grid: none;
    grid-auto-flow: row;
  }
  .add button {
    grid-row: auto;
  }
}
</style>
