<script setup lang="ts">
import { offsetsOf, readZoned, wallTimeIn } from '@wisteria/core'
import { ElDatePicker, ElOption, ElRadio, ElRadioGroup, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import { useWorkingCopy } from '../editor/workingCopy'
import { day } from '../times'
import type { ControlEvents, ControlProps } from './control'
import { t } from '../messages'

/** A day, or a local time in a time zone. Where a clock change skips or repeats that time, this asks for the offset. */
const props = defineProps<ControlProps>()
const emit = defineEmits<ControlEvents>()
const { site } = useWorkingCopy()
const hasTime = computed(() => props.field.kind === 'dateTime')
const withZone = computed(() => props.field.options['withZone'] === true)
const zones = computed(() => Intl.supportedValuesOf('timeZone'))
const chosenZone = ref<string>()
/** The zone that was meant: the value's own, or the site's. */
const zone = computed(
  () =>
    (withZone.value ? (readZoned(String(props.value ?? ''))?.zone ?? chosenZone.value) : undefined) ??
    site.settings.timeZone,
)
/** A picked time that a clock change skips. */
const skipped = ref(typeof props.fault?.text === 'string' ? props.fault.text : undefined)
const shown = computed(() =>
  skipped.value !== undefined
    ? skipped.value
    : typeof props.value !== 'string'
      ? null
      : !hasTime.value
        ? props.value
        : (readZoned(props.value)?.local ?? wallTimeIn(props.value, zone.value)),
)
/** The offsets that the time can have; two where it comes twice. */
const offsets = computed(() =>
  hasTime.value && typeof shown.value === 'string' ? offsetsOf(shown.value.slice(0, 19), zone.value) : [],
)
const offset = computed(() => {
  if (typeof props.value !== 'string') return undefined
  const instant = readZoned(props.value)?.instant ?? props.value
  return offsets.value.find((candidate) => Date.parse(shown.value!.slice(0, 19) + candidate) === Date.parse(instant))
})

function onPick(text: string | null): void {
  take(text ?? undefined, zone.value)
}

function take(text: string | undefined, name: string, wanted?: string): void {
  const [first] = text !== undefined && hasTime.value ? offsetsOf(text, name) : ['']
  if (text !== undefined && first === undefined) {
    skipped.value = text
    const message = t('controls.timeMissing', { time: text.slice(11, 16), day: day(text.slice(0, 10)), zone: name })
    return emit('unreadable', { text, message })
  }
  skipped.value = undefined
  emit('unreadable', undefined)
  if (text === undefined || !hasTime.value) emit('change', text)
  else emit('change', text + (wanted ?? first!) + (withZone.value ? `[${name}]` : ''))
}

/** The time on the clock stays: it is meant somewhere else. */
function onZone(name: string): void {
  chosenZone.value = name
  if (typeof shown.value === 'string') take(shown.value.slice(0, 19), name)
}
</script>

<template>
  <div class="date">
    <ElDatePicker
      :id="id"
      :type="hasTime ? 'datetime' : 'date'"
      :model-value="shown"
      :value-format="hasTime ? 'YYYY-MM-DD[T]HH:mm:ss' : 'YYYY-MM-DD'"
      :format="hasTime ? 'D MMM YYYY, HH:mm' : 'D MMM YYYY'"
      :disabled="disabled"
      @update:model-value="onPick"
    />
    <ElSelect
      v-if="withZone"
      class="zone"
      filterable
      :model-value="zone"
      :disabled="disabled"
      :aria-label="t('controls.timeZoneOf', { field: field.label })"
      @update:model-value="onZone"
    >
      <ElOption v-for="name in zones" :key="name" :value="name" :label="name" />
    </ElSelect>
    <span v-else-if="hasTime" class="quiet">{{ zone }}</span>
    <ElRadioGroup
      v-if="offsets.length > 1"
      class="twice"
      :model-value="offset"
      :disabled="disabled"
      :aria-label="t('controls.timeTwiceOf', { field: field.label })"
      @update:model-value="(zoneChosen) => take(shown!.slice(0, 19), zone, String(zoneChosen))"
    >
      <span>{{ t('controls.timeTwice') }}</span>
      <ElRadio v-for="(item, index) in offsets" :key="item" :value="item"
        >{{ index === 0 ? t('controls.first') : t('controls.second') }} ({{ item }})</ElRadio
      >
    </ElRadioGroup>
  </div>
</template>

<style scoped>
.zone {
  inline-size: 220px;
}
.twice {
  flex-basis: 100%;
  gap: 0 16px;
  font-size: 13px;
}
.date {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 12px;
}
</style>
