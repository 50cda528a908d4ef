<script setup lang="ts">
import { computed } from 'vue'
import { useDisplay } from 'vuetify'
import type { AnyRecord, Kind, Schemas } from '../../api/client'
import StateMark from '../../parts/StateMark.vue'
import { floorName } from '../../words'
import { isMono, labelOf, ownerOf, say, type Known } from './values'

/** The records of a kind: a table where there is room, a list on a phone. */
const props = defineProps<{ kind: Kind; records: AnyRecord[]; known: Known; code: string; findings: Schemas['Finding'][] }>()
const { width } = useDisplay()
const columns = computed(() => {
  const short = props.kind.members.filter((m) => !m.label && m.type !== 'map' && !['note', 'menus', 'facts', 'points', 'tries', 'udn', 'accessNotes', 'sha256', 'sealedAs', 'by', 'how'].includes(m.name))
  return short.filter((m) => props.records.some((r) => say(m, r[m.name], props.known))).slice(0, width.value < 1100 ? 4 : 5)
})
const owner = computed(() => ownerOf(props.kind))
const sorted = computed(() => {
  const key = (r: AnyRecord) => (props.kind.name === 'room' ? [Number(r.floor ?? 0), Number(r.order ?? 0)] : [0, 0])
  return [...props.records].sort((a, b) => (key(a)[0]! - key(b)[0]!) || (key(a)[1]! - key(b)[1]!))
})

function findingsOf(r: AnyRecord) {
  return props.findings.filter((f) => f.subjects.some((s) => s.id === r.id))
}
function to(r: AnyRecord) {
  return `/households/${props.code}/records/${props.kind.name}/${r.id}`
}
</script>

<template>
  <p v-if="!records.length" class="quiet">None recorded yet.</p>
  <table v-else-if="width >= 900">
    <thead><tr><th scope="col">{{ kind.members.find((m) => m.label)?.title }}</th><th v-for="c in columns" :key="c.name" scope="col">{{ c.title }}</th></tr></thead>
    <tbody>
      <tr v-for="r in sorted" :key="r.id">
        <td><router-link :to="to(r)">{{ labelOf(kind, r, known) }}</router-link> <StateMark v-for="(f, n) in findingsOf(r)" :key="n" :state="f.severity" quiet :word="f.sentence" /></td>
        <td v-for="c in columns" :key="c.name" :class="{ mono: isMono(c) }">{{ c.name === 'floor' ? floorName(Number(r.floor ?? 0)) : say(c, r[c.name], known) }}</td>
      </tr>
    </tbody>
  </table>
  <ul v-else class="plain ruled">
    <li v-for="r in sorted" :key="r.id"><router-link :to="to(r)" class="row-link">
      <div class="row"><strong>{{ owner ? say(owner, r[owner.name], known) + ' ' : '' }}{{ labelOf(kind, r, known) }}</strong><StateMark v-for="(f, n) in findingsOf(r)" :key="n" :state="f.severity" /></div>
      <div class="small quiet">{{ columns.filter((c) => c !== owner && say(c, r[c.name], known)).map((c) => (['whole', 'number', 'time', 'date'].includes(c.type) ? `${c.title} ` : '') + say(c, r[c.name], known)).join(' · ') }}</div>
    </router-link></li>
  </ul>
</template>

<style scoped>
td a { display: inline-block; }
</style>
