<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { asFailure, records, requestKey, type AnyRecord, type Failure, type Kind, type Member, type Schemas } from '../../api/client'
import { dropDraft, draftOf, keepDraft } from '../../drafts'
import { me } from '../../me'
import PreviewNote from '../../parts/PreviewNote.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import ReadLabel from '../../parts/ReadLabel.vue'
import { newId } from '../../outbox'
import { suppose, supposing } from '../../supposed'
import { useAction } from '../../useAction'
import { when } from '../../words'
import MemberField from './MemberField.vue'
import { clashesOf, patchOf, type Clash } from './merge'
import { recordPath } from './useRecords'
import { labelOf, say, type Known } from './values'

/** One form for all kinds, made from what the kind says of its members. What is typed is kept in the browser until the server has it. */
const props = defineProps<{ kind: Kind; record: AnyRecord; etag: string; known: Known; code: string }>()
const emit = defineEmits<{ saved: [record: AnyRecord]; leave: []; supposed: [] }>()
const isNew = computed(() => !props.record.id)
const members = computed(() => props.kind.members.filter((m) => !m.rule || (m.rule === 'fixed' && isNew.value)))
const parts = computed(() => {
  const out: { title: string; members: Member[] }[] = []
  for (const m of members.value) {
    if (!out.length || out.at(-1)!.title !== (m.part ?? '')) out.push({ title: m.part ?? '', members: [] })
    out.at(-1)!.members.push(m)
  }
  return out
})
const base = ref<AnyRecord>(props.record)
const draft = ref<Record<string, unknown>>(copy(props.record))
const etag = ref(props.etag)
const key = ref(requestKey())
const { failure, busy, act } = useAction()
const faultAt = (pointer: string) => failure.value?.faultAt(pointer)

// What was typed survives the page.
const place = `${me.session?.person.id}/${props.code}/${props.kind.name}/${props.record.id || 'new'}`
const restoredAt = ref(0)
let keeping = false
let soon: ReturnType<typeof setTimeout> | undefined
function copy(record: AnyRecord): Record<string, unknown> {
  return JSON.parse(JSON.stringify(Object.fromEntries(members.value.map((m) => [m.name, record[m.name]])))) as Record<string, unknown>
}
async function keep() {
  clearTimeout(soon)
  if (keeping) await keepDraft({ place, at: Date.now(), key: key.value, etag: etag.value, values: JSON.parse(JSON.stringify(draft.value)) as Record<string, unknown> })
}
const keepNow = () => void keep()
watch(draft, () => { keeping = true; clearTimeout(soon); soon = setTimeout(keepNow, 150) }, { deep: true })
onMounted(async () => {
  document.addEventListener('visibilitychange', keepNow)
  const begun = copy(props.record)
  const kept = await draftOf(place)
  if (kept) {
    // A quick hand has typed already: that goes before what was kept.
    const typed = Object.entries(draft.value).filter(([name, v]) => JSON.stringify(v) !== JSON.stringify(begun[name]))
    draft.value = { ...draft.value, ...kept.values, ...Object.fromEntries(typed) }
    key.value = kept.key
    if (!isNew.value) etag.value = kept.etag // an older version: the server says what changed since
    restoredAt.value = kept.at
    keeping = true
  }
})
onBeforeUnmount(() => { clearTimeout(soon); document.removeEventListener('visibilitychange', keepNow) })

function takeLabel(label: Schemas['Label']) {
  for (const name of ['serial', 'hardwareAddress'] as const) if (label[name] && members.value.some((m) => m.name === name)) draft.value[name] = label[name]
}

async function forget() {
  keeping = false
  clearTimeout(soon)
  await dropDraft(place)
}
async function throwAway() {
  draft.value = copy(props.record)
  etag.value = props.etag
  restoredAt.value = 0
  await nextTick() // what changes the form is kept again; forgotten after that
  await forget()
}
async function leave() {
  await forget()
  emit('leave')
}

// The same again in other rooms.
const roomMember = computed(() => (isNew.value ? props.kind.members.find((m) => m.refers === 'room' && !m.list && (!m.rule || m.rule === 'fixed') && props.kind.verbs.includes('add')) : undefined))
const alsoIn = ref<string[]>([])
const otherRooms = computed(() => (props.known.room ?? []).filter((r) => r.id !== draft.value[roomMember.value?.name ?? '']).map((r) => ({ title: String(r.name), value: r.id })))
const madeIn = ref<string[]>([])

const save = () => act(async () => {
  const path = recordPath(props.code, props.kind.name, props.record.id)
  const body = patchOf(members.value, base.value, draft.value, isNew.value)
  try {
    const made = isNew.value ? await records<AnyRecord>('POST', path, body, { 'Idempotency-Key': key.value })
      : await records<AnyRecord>('PATCH', path, body, { 'If-Match': etag.value, 'Content-Type': 'application/merge-patch+json' })
    await alsoInRooms(path, body)
    await forget()
    emit('saved', made.data)
  } catch (e) {
    const f = asFailure(e) as Failure
    if (!isNew.value && f.problem.code === 'record-changed') await lookAtTheirs()
    if (isNew.value && f.problem.code !== 'unreachable' && !madeIn.value.length) key.value = requestKey() // it was refused: a corrected one is another request
    throw f
  }
})

async function alsoInRooms(path: string, body: Record<string, unknown>) {
  for (const room of alsoIn.value.filter((r) => !madeIn.value.includes(r))) {
    const name = otherRooms.value.find((r) => r.value === room)?.title ?? ''
    const own = { ...body, [roomMember.value!.name]: room, ...(typeof body.name === 'string' && roomMember.value!.rule !== 'fixed' ? { name: `${body.name}, ${name}` } : {}) }
    await records<AnyRecord>('POST', path, own, { 'Idempotency-Key': `${key.value}-${room}`.slice(0, 80) })
    madeIn.value.push(room)
  }
}

// Someone else changed it: both values, and the person chooses.
const clashes = ref<Clash[]>([])
async function lookAtTheirs() {
  const theirs = await records<AnyRecord>('GET', recordPath(props.code, props.kind.name, props.record.id))
  const seen = clashesOf(members.value, base.value, draft.value, theirs.data)
  clashes.value = seen.clashes
  draft.value = seen.merged
  base.value = theirs.data
  etag.value = theirs.etag
}
function choose(c: Clash, mine: boolean) {
  draft.value = { ...draft.value, [c.member.name]: mine ? c.mine : c.theirs }
  c.keep = mine ? 'mine' : 'theirs'
}
// What saving would do is shown beforehand; for a new record, as soon as nothing required is missing.
const change = computed(() => {
  const body = patchOf(members.value, base.value, draft.value, isNew.value)
  const whole = members.value.every((m) => !m.required || !isNew.value || body[m.name] !== undefined)
  if (!Object.keys(body).length || !whole) return undefined
  return { verb: isNew.value ? 'add' : 'set', kind: props.kind.name, ...(isNew.value ? {} : { id: props.record.id }), members: body } as Schemas['PreviewStep']
})
// A change can be tried on paper: it is added to what is supposed of this home, and nothing is written.
const onPaper = computed(() => supposing(props.code))
async function supposeIt() {
  const step = change.value
  if (!step) return
  const changed = members.value.filter((m) => step.members && m.name in step.members)
  const what = isNew.value ? `New ${props.kind.noun} ${labelOf(props.kind, { ...draft.value, id: '' } as AnyRecord, props.known)}` : `Change ${props.kind.noun} ${labelOf(props.kind, props.record, props.known)}`
  const said = `${what}: ${changed.map((m) => `${m.title.toLowerCase()} ${spoken(m, step.members![m.name])}`).join(', ')}`
  if (isNew.value) step.members = { id: newId(), ...step.members }
  await forget()
  suppose(props.code, { said, steps: [step] })
  emit('supposed')
}
const spoken = (m: Member, v: unknown) => say(m, v, props.known) || 'nothing'
</script>

<template>
  <form class="sheet stack" novalidate :aria-label="isNew ? `New ${kind.noun}` : labelOf(kind, record, known)" @submit.prevent="onPaper ? supposeIt() : save()">
    <ReadLabel v-if="members.some((m) => m.name === 'serial' || m.name === 'hardwareAddress')" @read="takeLabel" />
    <div v-if="restoredAt" class="row note" role="status"><span>What you typed at {{ when(new Date(restoredAt).toISOString()) }} is still here.</span><v-btn variant="text" size="small" @click="throwAway">Discard</v-btn></div>
    <section v-for="(p, n) in parts" :key="n" class="stack">
      <h2 v-if="p.title">{{ p.title }}</h2>
      <div class="fields">
        <MemberField v-for="m in p.members" :key="m.name" v-model="draft[m.name]" :member="m" :known="known" :fault-at="faultAt" :at="'/' + m.name" :draft="draft" />
      </div>
    </section>
    <v-select v-if="roomMember && otherRooms.length" v-model="alsoIn" :items="otherRooms" multiple clearable label="Add the same in these rooms (optional)" hint="One for each room, with the room's name added." persistent-hint />
    <ProblemNote v-if="failure" :failure="failure">
      <template v-if="failure.problem.code === 'record-changed'">
        <ul class="plain small"><li v-for="c in failure.problem.changes" :key="c.revision">{{ c.by }}: {{ c.members.join('; ') }}</li></ul>
        <p v-if="!clashes.length">None of your changes clashes with theirs. Save again to keep both.</p>
        <fieldset v-for="c in clashes" :key="c.member.name" class="clash">
          <legend>{{ c.member.title }}: both of you changed it</legend>
          <label><input type="radio" :name="'keep-' + c.member.name" :checked="c.keep === 'theirs'" @change="choose(c, false)" /> Theirs: {{ spoken(c.member, c.theirs) }}</label>
          <label><input type="radio" :name="'keep-' + c.member.name" :checked="c.keep === 'mine'" @change="choose(c, true)" /> Yours: {{ spoken(c.member, c.mine) }}</label>
        </fieldset>
      </template>
    </ProblemNote>
    <PreviewNote :code="code" :change="change" />
    <div class="row"><v-btn v-if="!onPaper" type="submit" color="primary" :disabled="busy || clashes.some((c) => !c.keep)">{{ busy ? 'Saving …' : isNew ? 'Add' : 'Save' }}</v-btn><v-btn :variant="onPaper ? 'flat' : 'outlined'" :color="onPaper ? 'primary' : undefined" :disabled="!change || alsoIn.length > 0" @click="supposeIt">Suppose it</v-btn><v-btn variant="text" @click="leave">Cancel</v-btn></div>
  </form>
</template>

<style scoped>
.fields { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(300px, 100%), 1fr)); gap: 14px; align-items: start; }
h2 { padding-top: 8px; border-top: 1px solid rgb(var(--v-theme-line)); }
.note { border-left: 4px solid rgb(var(--v-theme-primary)); padding-left: 12px; }
.clash { border: 1px solid rgb(var(--v-theme-line)); border-radius: 6px; padding: 6px 12px; }
.clash label { display: flex; gap: 10px; align-items: center; min-height: 44px; overflow-wrap: anywhere; }
.clash input { width: 20px; height: 20px; flex: none; accent-color: rgb(var(--v-theme-primary)); }
</style>
