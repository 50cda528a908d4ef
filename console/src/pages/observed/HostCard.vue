<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import StateMark from '../../parts/StateMark.vue'
import { counted, when } from '../../words'

type Difference = Schemas['Difference']

/** One host compared with the record: who it is, what it says, what of that goes into the record. */
const props = defineProps<{ host: Schemas['Observed']; code: string; rooms: { title: string; value: string }[]; mayWrite: boolean; busy: boolean; mayScan: boolean }>()
const emit = defineEmits<{ take: [what: Omit<Schemas['RecordSeen'], 'scan'>]; say: [what: Omit<Schemas['ReviewHosts'], 'scan'>]; scan: [] }>()
const room = ref<string>()
const all = ref(false)
const open = computed(() => props.host.differences.filter((d) => d.relation !== 'same' && !d.ignored))
const ignored = computed(() => props.host.differences.filter((d) => d.ignored))
const same = computed(() => props.host.differences.filter((d) => d.relation === 'same'))
const isNew = computed(() => props.host.status === 'new')
const unsure = computed(() => props.host.status === 'unsure')
const rows = computed(() => (all.value ? props.host.differences : open.value))
const gist = computed(() => props.host.differences.filter((d) => ['make', 'model', 'roles', 'shownName', 'protocol'].includes(d.member)).map((d) => d.seen).filter((v, n, list) => list.indexOf(v) === n).join(' · '))
const seems = computed(() => [
  props.host.hardware && `MAC address ${props.host.hardware}${props.host.maker ? ` (${props.host.maker})` : ''}`,
  props.host.also?.length && `also at ${props.host.also.join(', ')}`,
  props.host.open?.length && `open TCP ports ${props.host.open.join(', ')}`,
  props.host.announces?.length && `announces ${props.host.announces.join('; ')}`,
  props.host.seenFrom && `seen since ${when(props.host.seenFrom)}`,
].filter(Boolean).join(' · '))
const groups = computed(() => {
  const out: { record: string; rows: Difference[] }[] = []
  for (const d of rows.value) {
    if (out.at(-1)?.record !== d.record.label) out.push({ record: d.record.label, rows: [] })
    out.at(-1)?.rows.push(d)
  }
  return out
})
const takeAll = () => emit('take', { hosts: [props.host.key], ...(room.value && { rooms: { [props.host.key]: room.value } }) })
</script>

<template>
  <article class="sheet stack-s">
    <div class="row between top">
      <h3><router-link v-if="host.device?.id && !unsure" :to="`/households/${code}/records/device/${host.device.id}`">{{ host.called }}</router-link><template v-else>{{ host.called }}</template> <span class="mono quiet">{{ host.address }}</span></h3>
      <span class="row"><span v-if="host.since" class="since">{{ host.since === 'gone' ? 'not seen this time, seen in the last scan' : host.since === 'appeared' ? 'not seen in the last scan' : 'changed since the last scan' }}</span><StateMark :state="host.status" /></span>
    </div>
    <p v-if="(isNew || unsure) && gist" class="small">{{ gist }}</p>
    <p v-if="!isNew && !unsure">{{ host.sentence }}</p>
    <p v-if="seems" class="small quiet seems">{{ seems }}</p>
    <ul v-if="host.changes.length" class="plain small"><li v-for="c in host.changes" :key="c">{{ c }}</li></ul>
    <p v-if="host.device?.id && !unsure && host.because.length" class="small quiet">Recognised by {{ host.because.join(', ') }}.</p>
    <div v-if="unsure" class="stack-s">
      <p v-for="c in host.candidates" :key="c.device.id"><strong>{{ c.device.label }}?</strong> <span class="small quiet">{{ c.because.join(', ') }}</span></p>
      <div v-if="mayWrite" class="row"><v-btn v-for="c in host.candidates" :key="c.device.id" variant="outlined" size="small" :disabled="busy" @click="emit('say', { identify: { [host.key]: c.device.id } })">This is {{ c.device.label }}</v-btn><v-btn variant="text" size="small" :disabled="busy" @click="emit('say', { identify: { [host.key]: 'new' } })">None of these</v-btn></div>
    </div>
    <div v-if="isNew && mayWrite" class="row"><v-select v-model="room" label="Room (optional)" :items="rooms" density="compact" hide-details clearable class="room" /><v-btn color="primary" size="small" :disabled="busy" @click="takeAll">Record</v-btn></div>
    <template v-if="open.length && !isNew && !unsure || all">
      <div v-for="g in groups" :key="g.record" class="record">
        <strong class="small">{{ g.record }}</strong>
        <ul class="plain">
          <li v-for="d in g.rows" :key="d.id" class="line">
            <span class="member">{{ d.title }}</span>
            <span class="value"><template v-if="d.recorded && d.relation !== 'same'"><span class="was">{{ d.recorded }}</span> → </template>{{ d.relation === 'same' ? d.seen : d.after }} <span class="small quiet">{{ d.relation === 'same' ? 'as recorded' : d.ignored ? 'ignored' : `by ${d.by.replaceAll('-', ' ')}` }}</span></span>
            <span v-if="mayWrite && d.relation !== 'same' && !isNew && !unsure" class="row does">
              <v-btn v-if="!d.ignored" variant="text" size="small" :disabled="busy" :aria-label="`Record ${d.title} of ${g.record}`" @click="emit('take', { differences: [d.id] })">Record</v-btn>
              <v-btn variant="text" size="small" :disabled="busy" :aria-label="`${d.ignored ? 'Stop ignoring' : 'Ignore'} ${d.title} of ${g.record}`" @click="emit('say', d.ignored ? { restore: [d.id] } : { ignore: [d.id] })">{{ d.ignored ? 'Stop ignoring' : 'Ignore' }}</v-btn>
            </span>
          </li>
        </ul>
      </div>
      <div v-if="open.length > 1 && !isNew && !unsure && mayWrite"><v-btn variant="outlined" size="small" :disabled="busy" @click="takeAll">Record all {{ open.length }}</v-btn></div>
    </template>
    <div class="row small"><button v-if="host.differences.length > (isNew || unsure ? 0 : open.length)" type="button" class="plainlink" :aria-expanded="all" @click="all = !all">{{ all ? 'Show less' : isNew || unsure ? `Everything seen (${host.differences.length})` : `${counted(same.length, 'value')} as recorded${ignored.length ? `, ${ignored.length} ignored` : ''}` }}</button>
      <button v-if="host.identified && mayWrite" type="button" class="plainlink" :disabled="busy" @click="emit('say', { identify: { [host.key]: '' } })">Identified by hand: ask again</button>
      <button v-if="mayScan" type="button" class="plainlink" :disabled="busy" @click="emit('scan')">Scan this host alone</button>
      <details v-if="host.answers.length"><summary>Requests and answers</summary><ul class="plain"><li v-for="(a, n) in host.answers" :key="n">{{ a.sentence }}</li></ul></details></div>
  </article>
</template>

<style scoped>
.top { align-items: baseline; }
.since { border: 1px solid rgb(var(--v-theme-line)); border-radius: 4px; padding: 0 8px; font-size: .875rem; }
.seems { overflow-wrap: anywhere; }
.room { max-width: 260px; min-width: 180px; }
.record { border-top: 1px solid rgb(var(--v-theme-line)); padding-top: 6px; }
.line { display: grid; grid-template-columns: minmax(110px, 170px) minmax(0, 1fr) auto; gap: 4px 12px; align-items: center; min-height: 36px; }
.value { overflow-wrap: anywhere; }
.was { text-decoration: line-through; text-decoration-thickness: 1px; }
.does { gap: 0; flex-wrap: nowrap; }
.plainlink { background: none; border: 0; padding: 0; min-height: 32px; font: inherit; color: rgb(var(--v-theme-primary)); text-decoration: underline; text-underline-offset: 2px; cursor: pointer; }
summary { cursor: pointer; min-height: 32px; line-height: 32px; }
@media (max-width: 899px) { .line { grid-template-columns: 1fr; padding: 6px 0; } .does { justify-content: flex-start; } .does .v-btn { padding-inline-start: 0; } }
</style>
