<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { api, must } from '../../api/client'
import CodeCard from '../../parts/CodeCard.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useAction } from '../../useAction'
import { newId } from '../../outbox'
import { plain } from '../../words'
import type { Known } from '../records/values'
import { kindNamed } from '../../me'
import { typed, useWalkForm } from './useWalkForm'

/** Readings at one place, taken in one go: what is left empty was not measured. */
const props = defineProps<{ stop: Schemas['Stop']; code: string; known: Known }>()
const emit = defineEmits<{ done: []; leave: [] }>()
const room = props.stop.room!
const at = ref<string | undefined>(props.stop.devices.length === 1 ? props.stop.devices[0]!.id : undefined)
const devices = props.stop.devices.map((d) => ({ title: d.label, value: d.id }))
const withWhat = ref('')
const conditions = ref('')
const quantities = ['down-mbps', 'up-mbps', 'signal-dbm', 'latency-ms', 'channel-busy-percent']
const values = ref<Record<string, string>>({})
const units: Record<string, string> = { mbps: 'Mb/s', dbm: 'dBm', ms: 'ms', percent: '%' }
const fields = computed(() => quantities.filter((q) => kindNamed('reading')?.members.find((m) => m.name === 'what')?.enum?.includes(q)).map((q) => {
  const unit = q.slice(q.lastIndexOf('-') + 1)
  return { q, label: `${plain(q.slice(0, q.lastIndexOf('-')))}, ${units[unit] ?? unit}` }
}))
const bad = (q: string) => (values.value[q] && typed(values.value[q]) === undefined ? 'Write a number.' : undefined)
const filled = computed(() => quantities.filter((q) => typed(values.value[q] ?? '') !== undefined))
const { busy, hand, added } = useWalkForm(props.code, room.id, () => emit('done'))

const invited = ref<Schemas['Code']>()
const { failure, act } = useAction()
/** A code for the browser of the device itself, or of a phone beside it: no typing, no account. */
const invite = () => act(async () => { invited.value = await must(api.POST('/api/v1/households/{code}/measure-codes', { params: { path: { code: props.code } }, body: { room: room.id, ...(at.value && { device: at.value }) } })) })

const add = () => hand(filled.value.map((what) => added('reading', `${plain(what)} ${values.value[what]} in ${room.label}`, {
  id: newId(), what, value: typed(values.value[what]!), room: room.id, subject: at.value ? { kind: 'device', id: at.value } : undefined, how: 'measured', at: new Date().toISOString(), with: withWhat.value, conditions: conditions.value })))
</script>

<template>
  <form class="stack quick" @submit.prevent="add">
    <div class="fields">
      <v-select v-model="at" label="At (optional)" :items="devices" clearable hint="The device it is about; leave empty for the room" persistent-hint />
      <v-text-field v-model="withWhat" label="Measured with (optional)" placeholder="the laptop" hint="Leave empty if the device itself measured" persistent-hint />
    </div>
    <div class="row"><v-btn variant="outlined" size="small" @click="invite">Measure with a browser</v-btn><a v-if="invited" :href="invited.address" target="_blank" rel="noopener">Measure with this browser</a></div>
    <CodeCard v-if="invited" :code="invited" how="Photograph it with the device that will measure, or open this address there:" />
    <ProblemNote v-if="failure" :failure="failure" />
    <div class="fields narrow"><v-text-field v-for="f in fields" :key="f.q" v-model="values[f.q]" :label="f.label" inputmode="decimal" :error-messages="bad(f.q)" /></div>
    <v-text-field v-model="conditions" label="Conditions (optional)" placeholder="evening, door closed" />
    <div class="row"><v-btn type="submit" color="primary" :disabled="busy || !filled.length || quantities.some((q) => bad(q))">Add {{ filled.length === 1 ? 'the reading' : 'the readings' }}</v-btn><v-btn variant="text" @click="emit('leave')">Cancel</v-btn></div>
  </form>
</template>
