<script setup lang="ts">
import { computed } from 'vue'
import { api, must } from '../api/client'
import { useResource } from '../useResource'

/** What keeps coming back with what a home has, or with one device of it, as it was counted in all homes of the firm. */
const props = defineProps<{ code: string; device?: string; enough?: boolean }>()
const { data } = useResource(() => must(api.GET('/api/v1/faults/recurring', { params: { query: { household: props.code, device: props.device ?? '' } } })), { household: props.code })
const lines = computed(() => data.value?.filter((l) => l.enough || !props.enough) ?? [])
</script>

<template>
  <section v-if="lines.length" class="sheet stack-s" aria-labelledby="recurring">
    <h2 id="recurring">What keeps coming back</h2>
    <ul class="plain ruled"><li v-for="l in lines" :key="l.kind + l.what"><strong>{{ l.what }}</strong>: {{ l.sentence }}<div v-for="m in l.modes" :key="m" class="small quiet">{{ m }}</div></li></ul>
    <p class="small quiet">Counted from the faults that were recorded with remedies in all homes of the firm. <router-link to="/faults">All of them</router-link></p>
  </section>
</template>
