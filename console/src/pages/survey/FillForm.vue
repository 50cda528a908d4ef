<script setup lang="ts">
import { computed, ref } from 'vue'
import type { AnyRecord, Schemas } from '../../api/client'
import ReadLabel from '../../parts/ReadLabel.vue'
import MemberField from '../records/MemberField.vue'
import { patchOf } from '../records/merge'
import { recordPath } from '../records/useRecords'
import type { Known } from '../records/values'
import { kindNamed } from '../../me'
import { useWalkForm } from './useWalkForm'

/** The members of a record that fill a gap, and nothing else of it. */
const props = defineProps<{ gap: Schemas['Gap']; code: string; known: Known; room: string }>()
const emit = defineEmits<{ done: []; leave: [] }>()
const kind = kindNamed(props.gap.kind)!
const members = props.gap.members.map((name) => kind.members.find((m) => m.name === name)!)
const record = (props.known[kind.name] ?? []).find((r) => r.id === props.gap.about?.id) ?? ({ id: '' } as AnyRecord)
const draft = ref<Record<string, unknown>>({ ...record, ...(props.gap.members.includes('testedOn') ? { testedOn: new Date().toLocaleDateString('sv') } : {}), ...(props.gap.members.includes('measuredAt') ? { measuredAt: new Date().toISOString() } : {}) })
const patch = computed(() => patchOf(members, record, draft.value, false))
const { busy, hand } = useWalkForm(props.code, props.room, () => emit('done'))
/** Members that stand on a device's label. */
const labelled = members.some((m) => m.name === 'serial' || m.name === 'hardwareAddress')
function take(label: Schemas['Label']) {
  for (const m of members) {
    const read = m.name === 'serial' ? label.serial : m.name === 'hardwareAddress' ? label.hardwareAddress : undefined
    if (read) draft.value[m.name] = read
  }
}
const store = () => hand([{ title: `${members.map((m) => m.title.toLowerCase()).join(', ')} of ${props.gap.about?.label ?? kind.noun}`, method: 'PATCH', path: recordPath(props.code, kind.name, record.id), body: patch.value, headers: { 'If-Match': `"${record.revision}"` } }])
</script>

<template>
  <form v-if="record.id" class="stack quick" @submit.prevent="store">
    <p class="small quiet">{{ gap.remedy }}</p>
    <ReadLabel v-if="labelled" @read="take" />
    <div class="fields"><MemberField v-for="m in members" :key="m.name" v-model="draft[m.name]" :member="m" :known="known" :fault-at="() => undefined" :at="`/${m.name}`" :draft="draft" /></div>
    <div class="row"><v-btn type="submit" color="primary" :disabled="busy || !Object.keys(patch).length">Save</v-btn><v-btn variant="text" @click="emit('leave')">Cancel</v-btn></div>
  </form>
  <p v-else class="small">It no longer exists. <v-btn variant="text" size="small" @click="emit('leave')">Cancel</v-btn></p>
</template>
