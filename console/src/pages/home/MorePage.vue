<script setup lang="ts">
import { useRoute } from 'vue-router'

const route = useRoute()
const base = `/households/${String(route.params.code)}`
const places = [
  { to: `${base}/proving`, title: 'Proving', what: 'What is proven, and what to test next' },
  { to: `${base}/survey`, title: 'Survey', what: 'Rooms, outlets, line, segments, links, readings, wishes' },
  { to: `${base}/devices/observed`, title: 'Seen on the network', what: 'What is there, and what is new, missing or changed' },
  { to: `${base}/paths`, title: 'Paths', what: 'How each device gets its media, and what that requires' },
  { to: `${base}/load`, title: 'Load of the network', what: 'Whether the network carries what is watched, and what would relieve it' },
  { to: `${base}/suppose`, title: 'Suppose', what: 'What changes would do, before they are made' },
  { to: `${base}/forecast`, title: 'What plays', what: 'What of each folder plays on which device, and why not' },
  { to: `${base}/visits`, title: 'Visits, long tasks and dates', what: 'Who visits when, what is running, what falls due' },
  { to: `${base}/records`, title: 'All records', what: 'Every kind of record of this home' },
  { to: `${base}/handover`, title: 'Handover', what: 'Hand this home to a colleague, or accept it' },
  { to: `${base}/journal`, title: 'Journal', what: 'Every change, by whom and when' },
  { to: '/households', title: 'Households', what: 'All homes of the firm' },
  { to: '/recipes', title: 'Recipes', what: 'The firm\'s own steps for programs and device models' },
  { to: '/faults', title: 'Faults in all homes', what: 'One fault in several homes, what keeps coming back, and what was learned of it' },
  { to: '/knowledge', title: 'Models and versions', what: 'What the firm knows of models of devices and of programs' },
  { to: '/people', title: 'People', what: 'Who is in the firm' },
  { to: '/me', title: 'My account', what: 'Password, log-ins, tokens' },
]
</script>

<template>
  <div class="page stack">
    <h1>More</h1>
    <ul class="plain sheet ruled">
      <li v-for="p in places" :key="p.to"><router-link :to="p.to" class="row-link"><strong>{{ p.title }}</strong><br /><span class="quiet small">{{ p.what }}</span></router-link></li>
    </ul>
  </div>
</template>
