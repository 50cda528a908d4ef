<script setup lang="ts">
import { mdiArrowDown, mdiArrowUp, mdiTableArrowDown } from '@mdi/js'
import { computed, ref } from 'vue'
import { useDisplay } from 'vuetify'
import type { AnyRecord, Kind, Member, Schemas } from '../../api/client'
import { saveCsv } from '../../csv'
import StateMark from '../../parts/StateMark.vue'
import { floorName } from '../../words'
import { isMono, labelOf, ownerOf, say, type Known } from './values'

/** The records of a kind: a table where there is room, a list on a phone; filtered, sorted, and as a file. */
const props = defineProps<{ kind: Kind; records: AnyRecord[]; known: Known; code: string; findings: Schemas['Finding'][] }>()
const { width } = useDisplay()
const wanted = ref('')
const by = ref('') // name of the member sorted by; "" is the kind's own order
const down = ref(false)

const fields = computed(() => props.kind.members.filter((m) => !m.label && m.type !== 'map' && !['facts', 'points', 'tries', 'sha256', 'sealedAs'].includes(m.name)))
const filled = computed(() => fields.value.filter((m) => props.records.some((r) => text(m, r))))
const columns = computed(() => filled.value.filter((m) => !['note', 'menus', 'udn', 'accessNotes', 'by', 'how'].includes(m.name)).slice(0, width.value < 1100 ? 4 : 5))
const owner = computed(() => ownerOf(props.kind))
const first = computed(() => props.kind.members.find((m) => m.label)?.title ?? 'Name')
const shown = computed(() => {
  const w = wanted.value?.trim().toLowerCase()
  const fits = props.records.filter((r) => !w || [labelOf(props.kind, r, props.known), ...filled.value.map((m) => text(m, r))].some((t) => t.toLowerCase().includes(w)))
  const member = fields.value.find((m) => m.name === by.value)
  const order = (a: AnyRecord, b: AnyRecord) => (by.value ? compare(member, a, b) : own(a, b))
  return fits.sort((a, b) => (down.value ? -order(a, b) : order(a, b)))
})

function text(m: Member, r: AnyRecord): string {
  return m.name === 'floor' ? floorName(Number(r.floor ?? 0)) : say(m, r[m.name], props.known)
}
function own(a: AnyRecord, b: AnyRecord): number {
  return props.kind.name === 'room' ? Number(a.floor ?? 0) - Number(b.floor ?? 0) || Number(a.order ?? 0) - Number(b.order ?? 0) : 0
}
function compare(m: Member | undefined, a: AnyRecord, b: AnyRecord): number {
  if (m && ['whole', 'number'].includes(m.type)) return Number(a[m.name] ?? 0) - Number(b[m.name] ?? 0)
  if (m && ['time', 'date'].includes(m.type)) return String(a[m.name] ?? '').localeCompare(String(b[m.name] ?? ''))
  const key = (r: AnyRecord) => (m ? text(m, r) : labelOf(props.kind, r, props.known))
  return key(a).localeCompare(key(b), undefined, { numeric: true })
}
function sortBy(name: string) {
  down.value = by.value === name && !down.value
  by.value = name
}
function sorted(name: string): 'ascending' | 'descending' | 'none' {
  return by.value !== name ? 'none' : down.value ? 'descending' : 'ascending'
}
function findingsOf(r: AnyRecord) {
  return props.findings.filter((f) => f.subjects.some((s) => s.id === r.id))
}
function to(r: AnyRecord) {
  return `/households/${props.code}/records/${props.kind.name}/${r.id}`
}
function save() {
  saveCsv(`${props.code} ${props.kind.plural}`, [[first.value, ...filled.value.map((m) => m.title)], ...shown.value.map((r) => [labelOf(props.kind, r, props.known), ...filled.value.map((m) => text(m, r))])])
}
</script>

<template>
  <p v-if="!records.length" class="quiet">None recorded yet.</p>
  <template v-else>
    <div v-if="records.length > 4" class="row tools">
      <v-text-field v-model="wanted" :label="`Filter ${records.length} ${kind.nouns}`" density="compact" clearable class="filter" />
      <v-btn variant="text" size="small" :prepend-icon="mdiTableArrowDown" @click="save">CSV</v-btn>
    </div>
    <p v-if="!shown.length" class="quiet">None matches.</p>
    <table v-else-if="width >= 900">
      <thead><tr>
        <th v-for="c in [{ name: '#label', title: first }, ...columns]" :key="c.name" scope="col" :aria-sort="sorted(c.name)">
          <button type="button" class="by" @click="sortBy(c.name)">{{ c.title }}<v-icon v-if="by === c.name" :icon="down ? mdiArrowDown : mdiArrowUp" size="14" aria-hidden="true" /></button>
        </th>
      </tr></thead>
      <tbody>
        <tr v-for="r in shown" :key="r.id">
          <td><router-link data-row :to="to(r)">{{ labelOf(kind, r, known) }}</router-link> <StateMark v-for="(f, n) in findingsOf(r)" :key="n" :state="f.severity" quiet :word="f.sentence" /></td>
          <td v-for="c in columns" :key="c.name" :class="{ mono: isMono(c) }">{{ text(c, r) }}</td>
        </tr>
      </tbody>
    </table>
    <ul v-else class="plain ruled">
      <li v-for="r in shown" :key="r.id"><router-link data-row :to="to(r)" class="row-link">
        <div class="row"><strong>{{ owner ? say(owner, r[owner.name], known) + ' ' : '' }}{{ labelOf(kind, r, known) }}</strong><StateMark v-for="(f, n) in findingsOf(r)" :key="n" :state="f.severity" /></div>
        <div class="small quiet">{{ columns.filter((c) => c !== owner && text(c, r)).map((c) => (['whole', 'number', 'time', 'date'].includes(c.type) && c.name !== 'floor' ? `${c.title} ` : '') + text(c, r)).join(' · ') }}</div>
      </router-link></li>
    </ul>
  </template>
</template>

<style scoped>
td a { display: inline-block; }
.by { font: inherit; color: inherit; background: none; border: 0; padding: 4px 0; cursor: pointer; display: inline-flex; align-items: center; gap: 4px; text-align: left; }
.by:hover { text-decoration: underline; text-underline-offset: 2px; }
.tools { align-items: center; }
.filter { max-width: 320px; }
</style>
