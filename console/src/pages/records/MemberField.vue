<script setup lang="ts">
import { computed } from 'vue'
import type { Member } from '../../api/client'
import { me, nounOf } from '../../me'
import { plain } from '../../words'
import { addressStart } from './addresses'
import { fullName, kindsFor, type Known } from './values'

/** The field of one member, by what it holds. In a row of a list it is brief: no help below it. */
const props = defineProps<{ member: Member; known: Known; faultAt: (pointer: string) => string | undefined; at: string; draft: Record<string, unknown>; brief?: boolean }>()
const model = defineModel<unknown>()
const fault = computed(() => props.faultAt(props.at))
const label = computed(() => props.member.title + (props.member.required || props.brief ? '' : ' (optional)'))
const common = computed(() => ({ label: label.value, name: props.member.name, hint: props.brief ? undefined : props.member.doc, persistentHint: !props.brief && !fault.value, errorMessages: fault.value, density: props.brief ? ('compact' as const) : ('default' as const) }))
const choices = computed<{ title: string; value: unknown }[]>(() => {
  const m = props.member
  if (m.enum?.length) return m.enum.map((v) => ({ title: plain(v), value: v }))
  if (m.refers === 'person') return me.people.filter((p) => !p.suspended).map((p) => ({ title: p.name, value: p.id }))
  return kindsFor(m).flatMap((kind) => (props.known[kind] ?? []).filter((r) => fits(kind, r)).map((r) => ({
    title: (m.refers === 'any' ? nounOf(kind) + ' ' : '') + fullName(props.known, kind, r), value: m.refers === 'any' ? `${kind}/${r.id}` : r.id })))
})
const isChoice = computed(() => !!props.member.enum?.length || props.member.type === 'reference')
/** A choice of many is searched; a choice of few is looked at. */
const searched = computed(() => props.member.type === 'reference' && choices.value.length > 8)
const chosen = computed<unknown>({
  get: () => (props.member.refers !== 'any' ? model.value : props.member.list ? ((model.value as Named[] | undefined) ?? []).map(refText) : model.value ? refText(model.value as Named) : undefined),
  set: (v) => { model.value = props.member.refers !== 'any' ? v : Array.isArray(v) ? v.map(refOf) : v ? refOf(v as string) : undefined },
})
interface Named { kind: string; id: string }
const refText = (r: Named) => `${r.kind}/${r.id}`
const refOf = (text: string): Named => ({ kind: text.slice(0, text.indexOf('/')), id: text.slice(text.indexOf('/') + 1) })

const isLong = computed(() => ['note', 'menus', 'accessNotes', 'address', 'outcome'].includes(props.member.name) && props.member.type === 'text' && !props.brief)
const keyboard = computed(() => (props.member.type === 'whole' ? 'numeric' : ['address', 'prefix', 'number'].includes(props.member.type) ? 'decimal' : undefined))
const native = computed(() => ({ date: 'date', hour: 'time', time: 'datetime-local' })[props.member.type as string])
const text = computed({
  get: () => (props.member.list ? ((model.value as string[] | undefined) ?? []).join(', ') : props.member.type === 'time' ? localTime(model.value) : String(model.value ?? '')),
  set: (v: string) => { model.value = props.member.list ? v.split(props.member.type === 'text' ? /\s*,\s*/ : /[\s,]+/).filter(Boolean) : read(v) },
})
/** A word of a vocabulary may be another one, too. */
const term = computed({ get: () => model.value as string | string[] | undefined, set: (v) => { model.value = v || undefined } })
const group = computed(() => (model.value as Record<string, unknown> | undefined) ?? {})
const rows = computed(() => (model.value as Record<string, unknown>[] | undefined) ?? [])

function read(v: string): unknown {
  if (v === '') return undefined
  if (props.member.type === 'whole') return Number.isInteger(Number(v)) ? Number(v) : v
  if (props.member.type === 'number') return Number.isFinite(Number(v.replace(',', '.'))) && !/[.,]$/.test(v) ? Number(v.replace(',', '.')) : v
  if (props.member.type === 'time') return Number.isNaN(Date.parse(v)) ? v : new Date(v).toISOString()
  return v
}

/** An instant as the field of the browser wants it, in the zone here. */
function localTime(v: unknown): string {
  const d = new Date(String(v ?? ''))
  if (Number.isNaN(d.getTime())) return ''
  return new Date(d.getTime() - d.getTimezoneOffset() * 60000).toISOString().slice(0, 16)
}

/** A folder offered for a path must be of the path's source; an adapter of the source's device. */
function fits(kind: string, r: Record<string, unknown>): boolean {
  const owner = { folder: 'source', interface: 'device', 'settings-copy': 'device' }[kind]
  return !owner || !props.draft[owner] || r[owner] === props.draft[owner]
}

/** An address begins as its segment does. */
function begin() {
  const start = props.member.type === 'address' && !model.value ? addressStart(props.draft, props.known) : ''
  if (start) text.value = start
}
function setIn(name: string, value: unknown) { model.value = { ...group.value, [name]: value } }
function setRow(n: number, name: string, value: unknown) { model.value = rows.value.map((r, i) => (i === n ? { ...r, [name]: value } : r)) }
</script>

<template>
  <v-autocomplete v-if="searched" v-model="chosen" v-bind="common" :items="choices" :multiple="member.list" :clearable="!member.required" />
  <v-select v-else-if="isChoice" v-model="chosen" v-bind="common" :items="choices" :multiple="member.list" :clearable="!member.required" no-data-text="None recorded yet" />
  <v-combobox v-else-if="member.terms?.length" v-model="term" v-bind="common" :items="member.terms" :multiple="member.list" :clearable="!member.required" />
  <div v-else-if="member.type === 'yes-no'"><label class="check"><input type="checkbox" :checked="!!model" :name="member.name" @change="model = ($event.target as HTMLInputElement).checked" /> {{ member.title }}</label><p v-if="!brief" class="small quiet">{{ member.doc }}</p></div>
  <fieldset v-else-if="member.type === 'group' && member.list" class="whole-width">
    <legend>{{ member.title }}</legend>
    <p class="small quiet">{{ member.doc }}</p>
    <div v-for="(r, n) in rows" :key="n" class="rowfields">
      <MemberField v-for="g in member.group" :key="g.name" :model-value="r[g.name]" :member="g" :known="known" :fault-at="faultAt" :at="`${at}/${n}/${g.name}`" :draft="draft" brief @update:model-value="setRow(n, g.name, $event)" />
      <v-btn variant="text" size="small" @click="model = rows.filter((_, i) => i !== n)">Remove</v-btn>
    </div>
    <div><v-btn variant="outlined" size="small" @click="model = [...rows, {}]">Add to {{ member.title.toLowerCase() }}</v-btn></div>
    <p v-if="fault" class="fault">{{ fault }}</p>
  </fieldset>
  <fieldset v-else-if="member.type === 'group'">
    <legend>{{ member.title }}</legend>
    <MemberField v-for="g in member.group" :key="g.name" :model-value="group[g.name]" :member="g" :known="known" :fault-at="faultAt" :at="`${at}/${g.name}`" :draft="draft" brief @update:model-value="setIn(g.name, $event)" />
    <p v-if="fault" class="fault">{{ fault }}</p>
  </fieldset>
  <v-textarea v-else-if="isLong" v-model="text" v-bind="common" rows="3" auto-grow />
  <v-text-field v-else-if="member.type !== 'map'" v-model="text" v-bind="common" :type="native" :hint="member.list ? member.doc + ' Separate several with commas.' : common.hint" :inputmode="keyboard" @focus="begin" />
</template>

<style scoped>
fieldset { border: 1px solid rgb(var(--v-theme-line)); border-radius: 6px; padding: 10px 12px 12px; display: grid; gap: 10px; }
legend { padding: 0 6px; font-weight: 600; font-size: .9375rem; }
.whole-width { grid-column: 1 / -1; }
.rowfields { display: grid; grid-template-columns: repeat(auto-fill, minmax(150px, 1fr)); gap: 8px; align-items: center; padding-bottom: 8px; border-bottom: 1px solid rgb(var(--v-theme-line)); }
.check { font-weight: 600; }
.fault { color: rgb(var(--v-theme-error)); font-size: .875rem; }
</style>
