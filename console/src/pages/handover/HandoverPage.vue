<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, records, type Handover, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { when } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

const route = useRoute()
const code = String(route.params.code)
const id = String(route.params.id)
const { data: h, failure, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/handovers/{id}/view', { params: { path: { code, id } } })), { household: code })
const may = (step: string) => h.value?.steps.includes(step) ?? false
const unread = computed(() => h.value?.unread ?? 0)
const { failure: refusal, act } = useAction()
const asking = ref('')
const text = ref('')
const returning = ref(false)

const take = (step: string, body: Record<string, string | string[]> = {}) => act(async () => {
  h.value = (await records<Handover>('POST', `/households/${code}/handovers/${id}/${step}`, body)).data
  asking.value = ''
  returning.value = false
  text.value = ''
})

/** Areas of points, in the order in which they are told. */
const areas: { title: string; has: RegExp }[] = [
  { title: 'Issues', has: /^issue-/ }, { title: 'Wishes', has: /^wish-/ }, { title: 'Tests', has: /^test-/ }, { title: 'Automatic checks', has: /^finding/ },
  { title: 'Changes to the record', has: /^records?-/ }, { title: 'To know and to bring', has: /^/ },
]
const groups = computed(() => {
  const left = [...(h.value?.points ?? [])]
  return areas.map((a) => {
    const points = left.filter((p) => a.has.test(p.code))
    points.forEach((p) => left.splice(left.indexOf(p), 1))
    return { title: a.title, points, unread: points.filter((p) => !p.confirmed).map((p) => p.id) }
  }).filter((g) => g.points.length)
})

function place(p: Schemas['Point']): string | undefined {
  if (!p.subject?.id) return undefined
  const base = `/households/${code}`
  if (p.subject.kind === 'issue') return `${base}/issues/${p.subject.id}`
  return p.code.startsWith('test-') ? `${base}/proving` : `${base}/records/${p.subject.kind}/${p.subject.id}`
}
</script>

<template>
  <div class="page stack">
    <p class="small"><router-link :to="`/households/${code}/handover`">Handover</router-link></p>
    <LoadState v-if="!h" :failure="failure" @again="reload" />
    <template v-else>
      <div class="row between"><h1>{{ h.from.name }} to {{ h.to.name }}</h1><StateMark :state="h.record.state" /></div>
      <section class="sheet stack-s">
        <p v-if="h.record.note">{{ h.record.note }}</p>
        <p class="small quiet">Drafted {{ when(h.record.draftedAt) }}<template v-if="when(h.record.offeredAt)">, offered {{ when(h.record.offeredAt) }}</template><template v-if="when(h.record.endedAt)">, {{ h.record.state }} {{ when(h.record.endedAt) }}</template>.
          <template v-if="h.record.state === 'offered'">{{ h.from.name }} stays responsible until it is accepted.</template>
          <template v-if="h.record.state === 'outdated'">The home has changed since the offer; offer it again with the points as they are now.</template></p>
        <p v-if="h.record.returnedWhy">Reason for returning it: {{ h.record.returnedWhy }}</p>
        <div v-for="g in h.gates" :key="g.subject.id" class="gate"><strong>{{ g.sentence }}</strong> {{ g.remedy }} <router-link :to="`/households/${code}/issues/${g.subject.id}`">Open the issue</router-link></div>
        <div v-if="may('offer')"><v-btn color="primary" :disabled="!!h.gates?.length" @click="take('offer')">Offer to {{ h.to.name }}</v-btn></div>
        <ProblemNote v-if="refusal" :failure="refusal" />
      </section>
      <section class="sheet stack" aria-labelledby="points">
        <div class="row between"><h2 id="points">Points</h2><span class="small quiet">{{ h.points.length - unread }} of {{ h.points.length }} read back</span></div>
        <template v-for="g in groups" :key="g.title">
        <div class="row between area"><h3>{{ g.title }}</h3><v-btn v-if="may('confirm') && g.unread.length > 1" variant="text" size="small" :aria-label="`Read back all of ${g.title}`" @click="take('confirm', { points: g.unread })">Read back all {{ g.unread.length }}</v-btn></div>
        <ol class="plain ruled">
          <li v-for="p in g.points" :key="p.id" class="point">
            <span class="mono small quiet id">{{ p.id }}</span>
            <div class="grow stack-s">
              <div>{{ p.sentence }} <router-link v-if="place(p)" :to="place(p)!" class="small">View</router-link></div>
              <div v-if="p.question" class="small">Asked: {{ p.question }}<template v-if="p.answer"> — Answered: {{ p.answer }}</template></div>
              <form v-if="asking === p.id" class="row" @submit.prevent="take(may('ask') ? 'ask' : 'answer', may('ask') ? { point: p.id, question: text } : { point: p.id, answer: text })">
                <v-text-field v-model="text" v-first :label="may('ask') ? 'Your question' : 'Your answer'" density="compact" />
                <v-btn type="submit" color="primary" :disabled="!text">{{ may('ask') ? 'Ask' : 'Answer' }}</v-btn>
              </form>
            </div>
            <StateMark v-if="p.confirmed" state="proven" word="read back" />
            <template v-else-if="may('confirm')">
              <v-btn variant="text" size="small" @click="asking = asking === p.id ? '' : p.id">Ask</v-btn>
              <v-btn variant="outlined" size="small" :aria-label="`Read back ${p.id}`" @click="take('confirm', { point: p.id })">Read back</v-btn>
            </template>
            <v-btn v-else-if="may('answer') && p.question && !p.answer" variant="outlined" size="small" @click="asking = p.id">Answer</v-btn>
          </li>
        </ol>
        </template>
      </section>
      <section v-if="may('accept')" class="sheet stack">
        <p v-if="unread">Read back every point, or ask about it and return the handover.</p>
        <p v-else>All points are read back. Once you accept, you are responsible for this home.</p>
        <form v-if="returning" class="stack" @submit.prevent="take('return', text ? { why: text } : {})">
          <v-text-field v-model="text" v-first label="Why you are returning it (optional if you asked a question)" />
          <div class="row"><v-btn type="submit" color="primary">Return</v-btn><v-btn variant="text" @click="returning = false">Cancel</v-btn></div>
        </form>
        <div v-else class="row"><v-btn color="primary" :disabled="unread > 0" @click="take('accept')">Accept</v-btn><v-btn variant="outlined" @click="returning = true">Return</v-btn></div>
      </section>
    </template>
  </div>
</template>

<style scoped>
.point { display: flex; gap: 10px; align-items: center; }
.id { width: 40px; flex: none; }
.area { min-height: 40px; }
.gate { border-left: 4px solid rgb(var(--v-theme-warning)); padding-left: 12px; }
.point form > :first-child { min-width: 180px; flex: 1; }
@media (max-width: 899px) { .point { flex-wrap: wrap; align-items: flex-start; } .point > .grow { flex-basis: 80%; } .id { width: auto; } }
</style>
