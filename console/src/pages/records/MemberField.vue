<script setup lang="ts">
import { computed } from 'vue'
import type { Member } from '../../api/client'
import { plain } from '../../words'
import { labelOf, kindNamed, type Known } from './values'

/** The field of one member, by what it holds. */
const props = defineProps<{ member: Member; known: Known; fault?: string; draft: Record<string, unknown> }>()
const model = defineModel<unknown>()
const label = computed(() => props.member.title + (props.member.required ? '' : ' (optional)'))
const choices = computed(() => {
  const m = props.member
  if (m.enum?.length) return m.enum.map((v) => ({ title: plain(v), value: v }))
  return (props.known[m.refers ?? ''] ?? []).filter(fits).map((r) => ({ title: labelOf(kindNamed(m.refers ?? ''), r), value: r.id }))
})
const isChoice = computed(() => !!props.member.enum?.length || (props.member.type === 'reference' && props.member.refers !== 'any'))
const isLong = computed(() => ['note', 'menus', 'accessNotes', 'address'].includes(props.member.name) && props.member.type === 'text')
const numeric = computed(() => (props.member.type === 'whole' ? 'numeric' : ['address', 'prefix'].includes(props.member.type) ? 'decimal' : undefined))
const text = computed({
  get: () => (props.member.list ? ((model.value as string[] | undefined) ?? []).join(', ') : ((model.value as string | undefined) ?? '')),
  set: (v: string) => { model.value = props.member.list ? v.split(/[\s,]+/).filter(Boolean) : v },
})
const whole = computed({
  get: () => (model.value === undefined || model.value === null ? '' : String(model.value)),
  set: (v: string) => { model.value = v === '' ? undefined : Number.isInteger(Number(v)) ? Number(v) : v },
})
const group = computed(() => (model.value as Record<string, unknown> | undefined) ?? {})
const rows = computed(() => (model.value as Record<string, unknown>[] | undefined) ?? [])

/** A folder offered for a path must be of the path's source; an adapter of the source's device. */
function fits(r: Record<string, unknown>): boolean {
  const owner = { folder: 'source', interface: 'device' }[props.member.refers ?? '']
  return !owner || !props.draft[owner] || r[owner] === props.draft[owner]
}
function setIn(name: string, value: unknown, type: string) {
  model.value = { ...group.value, [name]: type === 'whole' && value !== '' ? Number(value) : value }
}
function setRow(n: number, name: string, value: unknown) {
  model.value = rows.value.map((r, i) => (i === n ? { ...r, [name]: value } : r))
}
</script>

<template>
  <v-select v-if="isChoice" v-model="model" :items="choices" :label="label" :persistent-hint="!fault" :hint="member.doc" :multiple="member.list" :clearable="!member.required" :error-messages="fault" :name="member.name" />
  <div v-else-if="member.type === 'yes-no'"><label class="check"><input type="checkbox" :checked="!!model" :name="member.name" @change="model = ($event.target as HTMLInputElement).checked" /> {{ member.title }}</label><p class="small quiet">{{ member.doc }}</p></div>
  <fieldset v-else-if="member.type === 'group' && member.list" class="whole-width">
    <legend>{{ member.title }}</legend>
    <div v-for="(r, n) in rows" :key="n" class="rowfields">
      <v-text-field v-for="g in member.group" :key="g.name" :model-value="String(r[g.name] ?? '')" :label="g.title" density="compact" @update:model-value="setRow(n, g.name, $event)" />
      <v-btn variant="text" size="small" @click="model = rows.filter((_, i) => i !== n)">Take out</v-btn>
    </div>
    <v-btn variant="outlined" size="small" @click="model = [...rows, {}]">Add to {{ member.title.toLowerCase() }}</v-btn>
    <p v-if="fault" class="fault">{{ fault }}</p>
  </fieldset>
  <fieldset v-else-if="member.type === 'group'">
    <legend>{{ member.title }}</legend>
    <v-text-field v-for="g in member.group" :key="g.name" :model-value="String(group[g.name] ?? '')" :label="g.title" density="compact" :inputmode="g.type === 'address' ? 'decimal' : g.type === 'whole' ? 'numeric' : undefined" @update:model-value="setIn(g.name, $event, g.type)" />
    <p v-if="fault" class="fault">{{ fault }}</p>
  </fieldset>
  <v-text-field v-else-if="member.type === 'whole'" v-model="whole" :label="label" :persistent-hint="!fault" :hint="member.doc" inputmode="numeric" :error-messages="fault" :name="member.name" />
  <v-textarea v-else-if="isLong" v-model="text" :label="label" :persistent-hint="!fault" :hint="member.doc" :error-messages="fault" :name="member.name" />
  <v-text-field v-else-if="member.type !== 'map' && member.refers !== 'any'" v-model="text" :label="label" :persistent-hint="!fault" :hint="member.list ? member.doc + ' Several: with commas.' : member.doc" :inputmode="numeric" :error-messages="fault" :name="member.name" />
</template>

<style scoped>
fieldset { border: 1px solid rgb(var(--v-theme-line)); border-radius: 6px; padding: 10px 12px 12px; display: grid; gap: 10px; }
legend { padding: 0 6px; font-weight: 600; font-size: .9375rem; }
.whole-width { grid-column: 1 / -1; }
.rowfields { display: grid; grid-template-columns: repeat(auto-fill, minmax(150px, 1fr)); gap: 8px; align-items: center; }
.check { display: flex; gap: 10px; align-items: center; min-height: 44px; font-weight: 600; }
.check input { width: 20px; height: 20px; accent-color: rgb(var(--v-theme-primary)); }
.fault { color: rgb(var(--v-theme-error)); font-size: .875rem; }
</style>
