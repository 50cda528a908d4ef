<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Kind } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import { article, capital } from '../../words'
import { useResource } from '../../useResource'
import KindTable from './KindTable.vue'
import NewSecret from './NewSecret.vue'
import { useRowKeys } from '../../rowKeys'
import { loadKinds } from './useRecords'
import { kindNamed } from '../../me'
import { kindsNeeded } from './values'

/** Records of one or several kinds, by the same table for all. */
const props = defineProps<{ kinds?: string[]; title?: string; untitled?: boolean; links?: [string, string][] }>()
const route = useRoute()
useRowKeys()
const code = String(route.params.code)
const shown = computed(() => (props.kinds ?? [String(route.params.kind)]).map(kindNamed).filter((k): k is Kind => !!k))
const { data, failure, reload } = useResource(async () => {
  const needed = new Set(shown.value.flatMap((k) => [k.name, ...kindsNeeded(k)]))
  const [known, overview, findings] = await Promise.all([loadKinds(code, [...needed]),
    must(api.GET('/api/v1/households/{code}/overview', { params: { path: { code } } })), must(api.GET('/api/v1/households/{code}/findings', { params: { path: { code } } }))])
  return { known, mayWrite: overview.mayWrite, findings }
}, { household: code })
</script>

<template>
  <div class="page stack">
    <div v-if="!untitled" class="row between"><h1>{{ title ?? capital(shown[0]?.nouns ?? 'Records') }}</h1><span v-if="links" class="row"><router-link v-for="[to, word] in links" :key="to" :to="`/households/${code}/${to}`">{{ word }}</router-link></span></div>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <section v-for="k in shown" :key="k.name" class="sheet stack" :aria-labelledby="`kind-${k.name}`">
        <div class="row between">
          <h2 :id="`kind-${k.name}`">{{ capital(k.nouns) }}</h2>
          <v-btn v-if="data.mayWrite && k.verbs.includes('add')" variant="outlined" size="small" :prepend-icon="mdiPlus" :to="`/households/${code}/records/${k.name}/new`">Add {{ article(k.noun) }}</v-btn>
          <NewSecret v-if="data.mayWrite && k.name === 'secret'" :code="code" :known="data.known" @kept="reload" />
        </div>
        <KindTable :kind="k" :records="data.known[k.name] ?? []" :known="data.known" :code="code" :findings="data.findings" />
      </section>
    </template>
  </div>
</template>
