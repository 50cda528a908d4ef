<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, must, records, type AnyRecord, type Kind } from '../../api/client'
import FindingList from '../../parts/FindingList.vue'
import LoadState from '../../parts/LoadState.vue'
import PreviewNote from '../../parts/PreviewNote.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import RecurringNote from '../../parts/RecurringNote.vue'
import { suppose, supposing } from '../../supposed'
import { capital } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import { kindNamed, me } from '../../me'
import AttachmentsBlock from './AttachmentsBlock.vue'
import EraseBlock from './EraseBlock.vue'
import RecordForm from './RecordForm.vue'
import SecretBlock from './SecretBlock.vue'
import { loadKinds, recordPath } from './useRecords'
import { isMono, kindsNeeded, labelOf, say } from './values'

/** One record of any kind: shown, changed, removed, or new. */
const route = useRoute()
const router = useRouter()
const code = String(route.params.code)
const kindName = String(route.params.kind)
const id = route.params.id ? String(route.params.id) : ''
const kind = computed(() => kindNamed(kindName))
const editing = ref(!id)
const { data, failure, reload } = useResource(async () => {
  const needed = kind.value ? kindsNeeded(kind.value) : []
  const like = route.query.like ? String(route.query.like) : ''
  const path = { code }
  const [known, overview, findings, one] = await Promise.all([loadKinds(code, [...new Set(needed)]),
    must(api.GET('/api/v1/households/{code}/overview', { params: { path } })), must(api.GET('/api/v1/households/{code}/findings', { params: { path } })),
    id || like ? records<AnyRecord>('GET', recordPath(code, kindName, id || like)) : { data: { id: '' } as AnyRecord, etag: '' }])
  if (!id && like && kind.value) one.data = another(kind.value, one.data)
  return { known, mayWrite: overview.mayWrite, findings: findings.filter((f) => id && f.subjects.some((s) => s.id === id)), record: one.data, etag: one.etag }
}, { household: code, paused: () => editing.value })
const removing = ref(false)
const { failure: refusal, act } = useAction()

/** Another like that one: what tells the two apart is left for the person to say. */
function another(k: Kind, r: AnyRecord): AnyRecord {
  const own = ['serial', 'hardwareAddress', 'addresses', 'udn', 'id', 'revision']
  const made = Object.fromEntries(Object.entries(r).filter(([name]) => !own.includes(name))) as AnyRecord
  const name = k.members.find((m) => m.label && m.name === 'name')
  if (name && typeof made.name === 'string') made.name = made.name.replace(/(\d+)?$/, (n: string) => (n ? String(Number(n) + 1).padStart(n.length, '0') : ' 2'))
  return { ...made, id: '' }
}

async function saved(record: AnyRecord) {
  if (!id) return router.replace(`/households/${code}/records/${kindName}/${record.id}`)
  editing.value = false
  await reload()
}

function left() {
  if (!id) router.back()
  editing.value = false
}

const toSupposed = () => router.push(`/households/${code}/suppose`)
async function supposeRemoved() {
  if (!kind.value || !data.value) return
  suppose(code, { said: `Remove ${kind.value.noun} ${labelOf(kind.value, data.value.record, data.value.known)}`, steps: [{ verb: 'remove', kind: kindName, id }] })
  await toSupposed()
}

const remove = () => act(async () => {
  await records('DELETE', recordPath(code, kindName, id), undefined, { 'If-Match': data.value?.etag ?? '' })
  await router.push(`/households/${code}/records/${kindName}`)
})
</script>

<template>
  <div class="page stack">
    <p class="small"><router-link :to="`/households/${code}/records/${kindName}`">{{ capital(kind?.nouns ?? '') }}</router-link></p>
    <p v-if="!kind" class="sheet">There is no kind of record called {{ kindName }}.</p>
    <LoadState v-else-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <h1>{{ id ? labelOf(kind, data.record, data.known) : `New ${kind.noun}` }}</h1>
      <section v-if="data.findings.length" class="sheet"><FindingList :findings="data.findings" :code="code" /></section>
      <RecordForm v-if="editing" :kind="kind" :record="data.record" :etag="data.etag" :known="data.known" :code="code" @saved="saved" @leave="left" @supposed="toSupposed" />
      <section v-else class="sheet stack">
        <dl class="facts">
          <template v-for="m in kind.members" :key="m.name"><template v-if="say(m, data.record[m.name], data.known)"><dt>{{ m.title }}</dt><dd :class="{ mono: isMono(m) }">{{ say(m, data.record[m.name], data.known) }}</dd></template></template>
        </dl>
        <div class="row">
          <v-btn v-if="data.mayWrite && kind.verbs.includes('set')" color="primary" @click="editing = true">Change</v-btn>
          <v-btn v-if="data.mayWrite && kind.verbs.includes('remove') && !removing" variant="outlined" @click="removing = true">Remove</v-btn>
          <v-btn v-if="data.mayWrite && kind.verbs.includes('add')" variant="outlined" :to="`/households/${code}/records/${kindName}/new?like=${id}`">Another like this</v-btn>
          <router-link v-if="kindName === 'folder'" :to="`/households/${code}/folders/${id}`">What is in it</router-link>
          <router-link :to="`/households/${code}/journal?record=${id}`">History</router-link>
        </div>
        <div v-if="removing" class="stack-s"><p>Remove {{ kind.noun }} {{ labelOf(kind, data.record, data.known) }}? Everything that belongs to it is removed too. The journal keeps what it was.</p><PreviewNote :code="code" :change="{ verb: 'remove', kind: kindName, id }" />
          <div class="row"><v-btn v-if="!supposing(code)" color="error" @click="remove">Remove for good</v-btn><v-btn variant="outlined" @click="supposeRemoved">Suppose it</v-btn><v-btn variant="text" @click="removing = false">Cancel</v-btn></div></div>
        <ProblemNote v-if="refusal" :failure="refusal" />
      </section>
      <RecurringNote v-if="kindName === 'device' && id && !editing" :code="code" :device="id" />
      <EraseBlock v-if="kindName === 'household' && !editing && me.session?.person.role === 'coordinator'" :code="code" @done="reload" />
      <SecretBlock v-if="kindName === 'secret' && id && data.mayWrite && !editing" :id="id" :code="code" />
      <section v-if="kindName === 'attachment' && data.record.width" class="sheet"><img class="whole" :src="`/api/v1/households/${code}/attachments/${id}/body`" :alt="String(data.record.caption)" /></section>
      <p v-else-if="kindName === 'attachment'"><a :href="`/api/v1/households/${code}/attachments/${id}/body`" target="_blank" rel="noopener">Open the file</a></p>
      <AttachmentsBlock v-if="id && !editing && kindName !== 'attachment'" :id="id" :code="code" :kind="kindName" :may-write="data.mayWrite" />
    </template>
  </div>
</template>

<style scoped>
.whole { max-width: 100%; height: auto; display: block; }
</style>
