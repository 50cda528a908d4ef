<script setup lang="ts">
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import FindingList from '../../parts/FindingList.vue'
import LoadState from '../../parts/LoadState.vue'
import StateMark from '../../parts/StateMark.vue'
import { counted } from '../../words'
import { useResource } from '../../useResource'
import AddressStrip from './AddressStrip.vue'

/** What each address of the home's segments is there for: a strip to see, a table to read. */
const code = String(useRoute().params.code)
const { data, failure, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/address-plan', { params: { path: { code } } })), { household: code })
const wrong = (s: Schemas['AddressSpot']) => s.clash || s.outside || (s.inPool && s.uses.includes('set-on-device') && !s.uses.includes('reserved'))
</script>

<template>
  <div class="page stack">
    <div class="row between"><h1>Address plan</h1><span class="row"><router-link :to="`/households/${code}/survey/drawing`">Network drawing</router-link><router-link :to="`/households/${code}/survey`">Survey records</router-link></span></div>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <p v-else-if="!data.strips.length" class="sheet">No segment with an IPv4 prefix is recorded yet. <router-link :to="`/households/${code}/records/segment/new`">Record one.</router-link></p>
    <section v-for="s in data?.strips" :key="s.segment.id" class="sheet stack" :aria-labelledby="`strip-${s.segment.id}`">
      <div class="row between"><h2 :id="`strip-${s.segment.id}`"><router-link :to="`/households/${code}/records/segment/${s.segment.id}`" class="row-link">{{ s.segment.label }}</router-link> <span class="mono quiet">{{ s.prefix }}</span></h2>
        <span class="small quiet">{{ s.pool ? `DHCP pool ${s.pool}, ${counted(s.free, 'address', 'addresses')} free` : 'no DHCP pool recorded' }}</span></div>
      <AddressStrip :strip="s" />
      <FindingList v-if="s.findings.length" :findings="s.findings" :code="code" />
      <table v-if="s.spots.length">
        <caption class="skip">Addresses in use in {{ s.segment.label }}</caption>
        <thead><tr><th scope="col">Address</th><th scope="col">Device</th><th scope="col">Use</th></tr></thead>
        <tbody><tr v-for="a in s.spots" :key="a.address">
          <td class="mono">{{ a.address }}</td>
          <td><template v-for="(h, n) in a.holders" :key="h.id">{{ n ? ', ' : '' }}<router-link :to="`/households/${code}/records/interface/${h.id}`">{{ h.label }}</router-link></template></td>
          <td><StateMark v-if="wrong(a)" state="blocker" :word="a.says" class="says" /><template v-else>{{ a.says }}</template></td>
        </tr></tbody>
      </table>
      <p v-else class="quiet">No address is in use yet.</p>
    </section>
  </div>
</template>

<style scoped>
.says { white-space: normal; }
</style>
