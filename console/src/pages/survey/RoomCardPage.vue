<script setup lang="ts">
import { ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, must } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import StateMark from '../../parts/StateMark.vue'
import { floorName, when } from '../../words'
import { useResource } from '../../useResource'

/** One room: what is there, how to watch, what of that is proven, what is open. Turned to the customer, it leaves out what is for technicians. */
const route = useRoute()
const code = String(route.params.code)
const { data: card, failure, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/rooms/{id}/card', { params: { path: { code, id: String(route.params.id) } } })), { household: code })
const turned = ref(false)
const print = () => window.print()
</script>

<template>
  <div class="page stack">
    <LoadState v-if="!card" :failure="failure" @again="reload" />
    <template v-else>
      <div class="row between"><h1>{{ card.room.label }}</h1><span class="row noprint"><v-btn variant="outlined" size="small" :aria-pressed="turned" @click="turned = !turned">{{ turned ? 'For us' : 'For the customer' }}</v-btn><v-btn variant="text" size="small" @click="print">Print</v-btn></span></div>
      <p class="quiet">{{ card.home }}, {{ floorName(card.floor) }}</p>
      <p v-if="!card.watch.length" class="sheet">No way of watching is recorded in this room.</p>
      <section v-for="w in card.watch" :key="w.path.id" class="sheet stack-s" :aria-label="w.what">
        <div class="row between"><h2>{{ w.what }}</h2><StateMark v-if="!turned" :state="w.status" /></div>
        <p class="how">{{ w.how }}</p>
        <p v-if="w.else">If that fails: {{ w.else }}</p>
        <p class="small">{{ w.said }}<template v-if="w.last"> Last on {{ when(w.last, false) }}.</template><template v-if="!turned">{{ ' ' }}<router-link :to="`/households/${code}/records/path/${w.path.id}`">{{ w.path.label }}</router-link>, {{ w.proven }} of {{ w.required }} required tests proven.</template></p>
      </section>
      <section v-if="card.devices.length" class="sheet stack-s" aria-label="What is here">
        <h2>What is here</h2>
        <ul class="plain ruled"><li v-for="v in card.devices" :key="v.device.id" class="row between"><span v-if="turned">{{ v.device.label }}</span><router-link v-else :to="`/households/${code}/records/device/${v.device.id}`">{{ v.device.label }}</router-link><span class="quiet">{{ v.said }}</span></li></ul>
      </section>
      <section v-if="!turned && card.open.length" class="sheet stack-s" aria-label="Open">
        <h2>Open</h2>
        <ul class="plain ruled"><li v-for="i in card.open" :key="i.id"><router-link :to="`/households/${code}/issues/${i.id}`">{{ i.label }}</router-link></li></ul>
      </section>
      <p v-if="turned && card.open.length" class="sheet">Something is still open here. We are seeing to it.</p>
    </template>
  </div>
</template>

<style scoped>
.how { font-size: 1.15rem; }
</style>
