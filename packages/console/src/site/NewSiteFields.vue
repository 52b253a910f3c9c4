<script setup lang="ts">
import { ElInput } from 'element-plus'
import MessageText from '../components/MessageText.vue'
import TimeZoneSelect from '../components/TimeZoneSelect.vue'
import { t } from '../messages'
import { addressName, type NewSiteForm } from './newSite'

/** The name, default locale and time zone of a new site. */
const form = defineModel<NewSiteForm>({ required: true })
</script>

<template>
  <label for="site">{{ t('setUp.siteName') }}</label>
  <ElInput id="site" v-model="form.label" maxlength="120" required />
  <p v-if="addressName(form.label)" class="quiet">
    <MessageText of="setUp.inAddresses"
      ><template #name
        ><code>{{ addressName(form.label) }}</code></template
      ></MessageText
    >
  </p>
  <label for="locale">{{ t('setUp.defaultLocale') }}</label>
  <ElInput id="locale" v-model="form.locale" placeholder="en" maxlength="35" required />
  <label for="zone">{{ t('setUp.timeZone') }}</label>
  <TimeZoneSelect id="zone" v-model="form.timeZone" />
</template>
