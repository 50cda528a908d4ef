<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { api, must } from '../../api/client'
import { me } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import { useResource } from '../../useResource'
import { capital } from '../../words'

/** Every kind of record of the home, in the order of the work, with how many there are. */
const route = useRoute()
const code = String(route.params.code)
const { data, failure, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/overview', { params: { path: { code } } })), { household: code })
/** Kinds by the part of the work they belong to, in the order in which kinds of each first come. */
const shown = computed(() => {
  const areas = [...new Set(me.kinds.map((k) => k.area))]
  return areas.map((area) => ({ title: capital(area || 'more'), kinds: me.kinds.filter((k) => k.area === area) }))
})
</script>

<template>
  <div class="page stack">
    <h1>All records</h1>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <div v-else class="groups">
      <section v-for="g in shown" :key="g.title" class="sheet stack-s" :aria-label="g.title">
        <h2>{{ g.title }}</h2>
        <ul class="plain ruled">
          <li v-for="k in g.kinds" :key="k.name"><router-link :to="`/households/${code}/records/${k.name}`" class="row-link row between"><span>{{ capital(k.nouns) }}</span><span class="num" :class="{ quiet: !data.counts[k.name] }">{{ data.counts[k.name] || 'none' }}</span></router-link></li>
        </ul>
      </section>
    </div>
  </div>
</template>

<style scoped>
.groups { columns: 3 280px; column-gap: 14px; }
.groups section { break-inside: avoid; margin-bottom: 14px; }
.row-link { min-height: 28px; }
</style>
