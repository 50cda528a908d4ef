<script setup lang="ts">
import { mdiCameraOutline, mdiEthernet, mdiSpeedometer, mdiTelevision } from '@mdi/js'
import { computed, ref, shallowRef } from 'vue'
import type { Schemas } from '../../api/client'
import { outbox } from '../../outbox'
import FindingList from '../../parts/FindingList.vue'
import { capital, counted, plain, when } from '../../words'
import type { Known } from '../records/values'
import FillForm from './FillForm.vue'
import NewDevice from './NewDevice.vue'
import NewOutlets from './NewOutlets.vue'
import NewPhotograph from './NewPhotograph.vue'
import NewReading from './NewReading.vue'
import { useWalkForm } from './useWalkForm'

/** One room of the walk: what is wished, there, found and missing, and what can be recorded here. */
const props = defineProps<{ stop: Schemas['Stop']; code: string; known: Known; mayWrite: boolean }>()
defineEmits<{ sent: [] }>()
type Tool = 'photograph' | 'outlets' | 'device' | 'reading'
const tool = ref<Tool>()
const filling = shallowRef<Schemas['Gap']>()
const room = computed(() => props.stop.room?.id ?? '')
const own = computed(() => outbox.parcels.filter((p) => p.code === props.code && p.room === room.value && !p.refused))
const tools: { key: Tool; word: string; icon: string }[] = [
  { key: 'photograph', word: 'Photograph', icon: mdiCameraOutline },
  { key: 'outlets', word: 'Outlets', icon: mdiEthernet },
  { key: 'device', word: 'Device', icon: mdiTelevision },
  { key: 'reading', word: 'Reading', icon: mdiSpeedometer },
]

function take(t: Tool) {
  filling.value = undefined
  tool.value = tool.value === t ? undefined : t
}

/** What fills a gap: its record's own members, one of the tools here, or the form of a new record. */
function fill(g: Schemas['Gap']) {
  const by: Record<string, Tool> = { outlet: 'outlets', device: 'device', reading: 'reading', attachment: 'photograph' }
  tool.value = undefined
  filling.value = undefined
  if (g.members.length) filling.value = g
  else if (room.value && by[g.kind]) tool.value = by[g.kind]
}
const formOf = (g: Schemas['Gap']) => (g.members.length || (room.value && ['outlet', 'device', 'reading', 'attachment'].includes(g.kind)) ? '' : `/households/${props.code}/records/${g.kind}/new`)
const { busy, hand } = useWalkForm(props.code, room.value, done)
/** Says that a gap needs nothing recorded; without an answer, that it does after all. */
const reply = (g: { code: string; about?: Schemas['Named']; sentence: string }, answer?: string) =>
  hand([{ title: answer ? `${g.sentence} ${capital(plain(answer))}.` : `Ask again: ${g.sentence}`, method: 'POST', path: `/households/${props.code}/survey/answers`, body: { code: g.code, ...(g.about?.id && { about: { kind: g.about.kind, id: g.about.id } }), ...(answer && { answer }) } }])
function done() {
  tool.value = undefined
  filling.value = undefined
}
</script>

<template>
  <article :id="stop.room ? `room-${stop.room.id}` : 'home'" class="sheet stack stop" :aria-label="stop.room?.label ?? 'The home as a whole'">
    <div v-if="stop.room" class="row between">
      <h3><router-link :to="`/households/${code}/records/room/${stop.room.id}`" class="row-link">{{ stop.room.label }}</router-link></h3>
      <router-link :to="`/households/${code}/rooms/${stop.room.id}/card`" class="small">Room card</router-link>
      <span class="small quiet">{{ [stop.outlets.length ? 'outlets ' + stop.outlets.map((o) => o.label).join(', ') : '', stop.photos ? counted(stop.photos, 'photograph') : ''].filter(Boolean).join(' · ') }}</span>
    </div>
    <p v-if="stop.wishes.length" class="small">Wishes: {{ stop.wishes.join(', ') }}</p>
    <p v-if="stop.devices.length" class="devices"><router-link v-for="d in stop.devices" :key="d.id" :to="`/households/${code}/records/device/${d.id}`">{{ d.label }}</router-link></p>
    <FindingList v-if="stop.findings.length" :findings="stop.findings" :code="code" />
    <ul v-if="stop.gaps.length" class="plain gaps">
      <li v-for="(g, n) in stop.gaps" :key="n">
        <div class="row between"><span>{{ g.sentence }}</span>
          <span v-if="mayWrite" class="row does"><v-btn v-if="formOf(g)" variant="outlined" size="small" :to="formOf(g)">Record</v-btn><v-btn v-else variant="outlined" size="small" :aria-label="`Record: ${g.sentence}`" @click="fill(g)">Record</v-btn>
            <v-btn variant="text" size="small" :disabled="busy" :aria-label="`None here: ${g.sentence}`" @click="reply(g, 'none-here')">None here</v-btn><v-btn variant="text" size="small" :disabled="busy" :aria-label="`Not needed: ${g.sentence}`" @click="reply(g, 'not-needed')">Not needed</v-btn></span>
        </div>
        <FillForm v-if="filling === g" :gap="g" :code="code" :known="known" :room="room" @done="done" @leave="done" />
      </li>
    </ul>
    <p v-else-if="stop.room" class="small quiet">Nothing is missing here.</p>
    <details v-if="stop.answered.length" class="small"><summary>{{ counted(stop.answered.length, 'question') }} answered</summary>
      <ul class="plain ruled"><li v-for="a in stop.answered" :key="a.code + (a.about?.id ?? '')" class="row between"><span>{{ a.sentence }} <span class="quiet">{{ a.by }}, {{ when(a.at) }}<template v-if="a.note">: {{ a.note }}</template></span></span><v-btn v-if="mayWrite" variant="text" size="small" :disabled="busy" :aria-label="`Ask again: ${a.sentence}`" @click="reply(a)">Ask again</v-btn></li></ul>
    </details>
    <ul v-if="own.length" class="plain small"><li v-for="p in own" :key="p.n" class="quiet">Not sent yet: {{ p.title }}</li></ul>
    <template v-if="mayWrite && stop.room">
      <div class="tools" role="group" :aria-label="`Record in ${stop.room.label}`"><v-btn v-for="t in tools" :key="t.key" variant="outlined" size="small" :prepend-icon="t.icon" :aria-pressed="tool === t.key" @click="take(t.key)">{{ t.word }}</v-btn></div>
      <NewPhotograph v-if="tool === 'photograph'" :code="code" :stop="stop" @done="done" @leave="done" />
      <NewOutlets v-if="tool === 'outlets'" :code="code" :stop="stop" :known="known" @done="done" @leave="done" />
      <NewDevice v-if="tool === 'device'" :code="code" :stop="stop" :known="known" @done="done" @leave="done" />
      <NewReading v-if="tool === 'reading'" :code="code" :stop="stop" :known="known" @done="done" @leave="done" />
    </template>
  </article>
</template>

<style scoped>
.stop { scroll-margin-top: 60px; }
.devices { display: flex; flex-wrap: wrap; gap: 4px 14px; }
.devices a { min-height: 28px; }
.gaps > li { border-top: 1px dashed rgb(var(--v-theme-line)); padding: 6px 0; }
.gaps .row { flex-wrap: nowrap; }
.gaps .does { gap: 0 4px; flex: none; }
@media (max-width: 899px) { .gaps .row { flex-wrap: wrap; gap: 4px 8px; } }
.tools { display: grid; grid-template-columns: repeat(auto-fill, minmax(136px, 1fr)); gap: 8px; }
</style>
