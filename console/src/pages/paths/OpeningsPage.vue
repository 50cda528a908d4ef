<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import { saveText } from '../../csv'
import LoadState from '../../parts/LoadState.vue'
import StateMark from '../../parts/StateMark.vue'
import { useResource } from '../../useResource'

/** What the firewalls of a home have to let in for its paths, what is recorded of it, and sheets to take along. */
type Needed = Schemas['NeededOpening']
const code = String(useRoute().params.code)
const { data, failure, reload } = useResource(async () => must(api.GET('/api/v1/households/{code}/needed-openings', { params: { path: { code } } })), { household: code })
const hosts = computed(() => {
  const by = new Map<string, { host: Needed['host']; needed: Needed[] }>()
  for (const n of data.value?.needed ?? []) by.set(n.host.id, { host: n.host, needed: [...(by.get(n.host.id)?.needed ?? []), n] })
  return [...by.values()]
})
const marks: Record<Needed['state'], { state: string; word: string }> = {
  open: { state: 'as-recorded', word: 'open' }, shut: { state: 'blocker', word: 'blocked' }, refused: { state: 'failed', word: 'refused' }, contradicts: { state: 'in-doubt', word: 'open and shut' },
  'other-class': { state: 'warning', word: 'open for another class' }, asked: { state: 'waiting', word: 'asked' }, 'not-recorded': { state: 'not-known', word: 'not recorded' },
}
const forms: Record<string, string> = { text: 'As text', nftables: 'As rules (nftables)', csv: 'As a table (CSV)' }
const what = (n: Needed) => (n.port ? `${n.transport.toUpperCase()} port ${n.port}` : `${n.transport.toUpperCase()}, answers to its own search`)
const from = (n: Needed) => (n.outside ? `outside, to ${n.to.join(' or ') || 'the server'} port ${n.toPort}` : n.from.join(', ') || 'not recorded')
</script>

<template>
  <div class="page stack">
    <h1>Openings</h1>
    <p class="quiet">What the firewall of each machine has to let in, worked out from the paths in use, and what is recorded of it. This is advice: nothing is opened.</p>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <p v-if="!hosts.length" class="sheet quiet">No path in use needs an opening.</p>
      <div v-else class="row"><v-btn v-for="s in data.sheets" :key="s.form" variant="outlined" size="small" @click="saveText(s.file, s.body)">{{ forms[s.form] }}</v-btn></div>
      <section v-for="h in hosts" :key="h.host.id" class="sheet stack-s" :aria-label="h.host.label">
        <h2><router-link :to="`/households/${code}/records/device/${h.host.id}`">{{ h.host.label }}</router-link></h2>
        <ul class="plain ruled">
          <li v-for="n in h.needed" :key="`${n.transport} ${n.port} ${n.toPort}`">
            <div class="row between"><strong>{{ what(n) }}</strong><StateMark v-bind="marks[n.state]" /></div>
            <div class="small">from <span class="mono">{{ from(n) }}</span>, for {{ n.for }}</div>
            <div v-if="n.seenSaid" class="small">{{ n.seenSaid }}</div>
            <div class="small quiet"><router-link v-if="n.record" :to="`/households/${code}/records/opening/${n.record.id}`">As recorded</router-link><template v-if="n.record && n.paths.length">, for </template>{{ n.paths.map((p) => p.label).join(', ') }}</div>
          </li>
        </ul>
      </section>
      <section v-if="data.spare.length" class="sheet stack-s" aria-label="Open for nothing">
        <h2>Open for nothing</h2>
        <p class="small quiet">Recorded as open, and needed by no path in use. Close what nothing else needs.</p>
        <ul class="plain ruled"><li v-for="s in data.spare" :key="s.opening.id"><router-link :to="`/households/${code}/records/opening/${s.opening.id}`">{{ s.transport.toUpperCase() }} port {{ s.ports }} of {{ s.host.label }}</router-link><span v-if="s.for" class="small quiet"> {{ s.for }}</span></li></ul>
      </section>
    </template>
  </div>
</template>
