<script setup lang="ts">
import { computed } from 'vue'
import { api, must } from '../../api/client'
import { useResource } from '../../useResource'

/** Which sample clip was played. */
const sample = defineModel<string>({ required: true })
const { data } = useResource(() => must(api.GET('/api/v1/samples')))
const items = computed(() => (data.value ?? []).map((s) => ({ value: s.name, title: s.name, props: { subtitle: s.what } })))
</script>

<template>
  <v-select v-model="sample" :items="items" clearable label="Sample clip that was played" hint="What it shows of the device's decoding is recorded." persistent-hint @click:clear="sample = ''" />
</template>
