<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import OutboxNote from '../../parts/OutboxNote.vue'
import { kindNamed, me } from '../../me'
import { counted, floorName } from '../../words'
import { useResource } from '../../useResource'
import { loadKinds } from '../records/useRecords'
import { kindsNeeded } from '../records/values'
import NewRoom from './NewRoom.vue'
import StopCard from './StopCard.vue'

/** The walk through the home: rooms in walking order, in each what is missing, and quick ways to record it. */
const code = String(useRoute().params.code)
const kinds = ['room', 'outlet', 'device', 'interface', 'segment', 'line', 'reading', 'attachment']
const { data, failure, reload } = useResource(async () => {
  const needed = new Set(kinds.flatMap((k) => [k, ...kindsNeeded(kindNamed(k)!)]))
  const [survey, known] = await Promise.all([must(api.GET('/api/v1/households/{code}/survey', { params: { path: { code } } })), loadKinds(code, [...needed])])
  return { survey, known }
}, { household: code })
const floors = computed(() => {
  const out: { name: string; stops: Schemas['Stop'][] }[] = []
  for (const s of data.value?.survey.stops ?? []) {
    const name = s.room?.id ? floorName(s.floor) : 'The home as a whole'
    if (out.at(-1)?.name !== name) out.push({ name, stops: [] })
    out.at(-1)!.stops.push(s)
  }
  return out
})
const rooms = computed(() => data.value?.survey.stops.filter((s) => s.room?.id) ?? [])
</script>

<template>
  <div class="page stack">
    <div class="row between"><h1>Walk</h1><span class="row"><router-link :to="`/households/${code}/proving`">Prove</router-link><router-link :to="`/households/${code}/survey`">Survey records</router-link></span></div>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <OutboxNote />
      <section class="sheet stack-s" aria-labelledby="one-network">
        <h2 id="one-network">Is everything on the same network?</h2>
        <p>{{ data.survey.network.sentence }}</p>
        <ul class="plain small"><li v-for="p in data.survey.network.paths" :key="p.path.id"><router-link :to="`/households/${code}/records/path/${p.path.id}`">{{ p.path.label }}</router-link>: {{ p.sentence }}</li></ul>
        <p v-for="l in data.survey.lines" :key="l.line.id" class="small"><strong>From outside, on {{ l.line.label }}:</strong> {{ l.sentence }}</p>
        <p class="small quiet">{{ data.survey.missing ? counted(data.survey.missing, 'item') + ' missing.' : 'Nothing is missing.' }} <template v-if="!data.survey.mayWrite">You can view this home but not record: {{ me.session?.person.name }} is neither the custodian nor on a visit here.</template></p>
      </section>
      <nav v-if="rooms.length > 2" class="rooms small" aria-label="Rooms"><a v-for="s in rooms" :key="s.room!.id" :href="`#room-${s.room!.id}`">{{ s.room!.label }}<span v-if="s.gaps.length" class="quiet"> {{ s.gaps.length }}</span></a></nav>
      <section v-for="f in floors" :key="f.name" class="stack" :aria-label="f.name">
        <h2 class="floor">{{ f.name }}</h2>
        <StopCard v-for="s in f.stops" :key="s.room?.id ?? ''" :stop="s" :code="code" :known="data.known" :may-write="data.survey.mayWrite" @sent="reload" />
      </section>
      <NewRoom v-if="data.survey.mayWrite" :code="code" :known="data.known" />
    </template>
  </div>
</template>

<style scoped>
.floor { padding-top: 6px; }
.rooms { display: flex; flex-wrap: wrap; gap: 0 16px; }
.rooms a { min-height: 44px; display: inline-flex; align-items: center; gap: 5px; }
</style>
