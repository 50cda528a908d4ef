<script setup lang="ts">
import { computed, ref } from 'vue'
import { records, type AnyRecord, type Kind, type Member } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import MemberField from './MemberField.vue'
import { useAction } from '../../useAction'
import { recordPath } from './useRecords'
import type { Known } from './values'

/** One form for all kinds, made from what the kind says of its members. */
const props = defineProps<{ kind: Kind; record: AnyRecord; etag: string; known: Known; code: string }>()
const emit = defineEmits<{ saved: [record: AnyRecord]; leave: []; again: [] }>()
const isNew = computed(() => !props.record.id)
const members = computed(() => props.kind.members.filter((m) => !m.rule || (m.rule === 'fixed' && isNew.value)))
const draft = ref<Record<string, unknown>>(start())
const { failure, busy, act } = useAction()
const etag = ref(props.etag)

function start(): Record<string, unknown> {
  return JSON.parse(JSON.stringify(Object.fromEntries(members.value.map((m) => [m.name, props.record[m.name]])))) as Record<string, unknown>
}

/** Only what differs is sent; what was emptied is cleared. */
function patch(): Record<string, unknown> {
  const out: Record<string, unknown> = {}
  for (const m of members.value) {
    const now = tidy(m, draft.value[m.name])
    if (JSON.stringify(now) === JSON.stringify(tidy(m, props.record[m.name]))) continue
    if (now !== undefined || !isNew.value) out[m.name] = now ?? null
  }
  return out
}

function tidy(m: Member, v: unknown): unknown {
  if (v === '' || v === null || v === undefined || (Array.isArray(v) && v.length === 0)) return undefined
  if (m.type === 'group' && !m.list) {
    const g = Object.fromEntries(Object.entries(v as Record<string, unknown>).filter(([, x]) => x !== '' && x !== null && x !== undefined))
    return Object.keys(g).length ? g : undefined
  }
  return v
}

const save = () => act(async () => {
  const path = recordPath(props.code, props.kind.name, props.record.id)
  const headers = isNew.value ? {} : { 'If-Match': etag.value, 'Content-Type': 'application/merge-patch+json' }
  emit('saved', (await records<AnyRecord>(isNew.value ? 'POST' : 'PATCH', path, patch(), headers as Record<string, string>)).data)
})

/** Somebody else changed it: send mine again on top of theirs. */
async function keepMine() {
  const newest = failure.value?.problem.changes?.at(-1)
  if (newest) etag.value = `"${newest.revision}"`
  await save()
}
</script>

<template>
  <form class="sheet stack" novalidate @submit.prevent="save">
    <div class="fields">
      <MemberField v-for="m in members" :key="m.name" v-model="draft[m.name]" :member="m" :known="known" :fault="failure?.faultAt('/' + m.name)" :draft="draft" />
    </div>
    <ProblemNote v-if="failure" :failure="failure">
      <template v-if="failure.problem.code === 'record-changed'">
        <ul class="plain small"><li v-for="c in failure.problem.changes" :key="c.revision">{{ c.by }}: {{ c.members.join('; ') }}</li></ul>
        <div class="row"><v-btn color="primary" @click="keepMine">Keep mine as well</v-btn><v-btn variant="outlined" @click="emit('again'); emit('leave')">Take theirs</v-btn></div>
      </template>
    </ProblemNote>
    <div class="row"><v-btn type="submit" color="primary" :disabled="busy">{{ busy ? 'Storing …' : isNew ? 'Add' : 'Store' }}</v-btn><v-btn variant="text" @click="emit('leave')">Leave it</v-btn></div>
  </form>
</template>

<style scoped>
.fields { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(300px, 100%), 1fr)); gap: 14px; align-items: start; }
</style>
