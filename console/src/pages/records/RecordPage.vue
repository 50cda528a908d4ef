<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, must, records, type AnyRecord } from '../../api/client'
import FindingList from '../../parts/FindingList.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { capital, plain } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import RecordForm from './RecordForm.vue'
import { loadKinds, recordPath } from './useRecords'
import { isMono, kindNamed, kindsNeeded, labelOf, say } from './values'

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
  if (kind.value?.members.some((m) => m.refers === 'any')) needed.push('room', 'segment', 'device', 'path', 'source')
  const path = { code }
  const [known, overview, findings, one] = await Promise.all([loadKinds(code, [...new Set(needed)]),
    must(api.GET('/api/v1/households/{code}/overview', { params: { path } })), must(api.GET('/api/v1/households/{code}/findings', { params: { path } })),
    id ? records<AnyRecord>('GET', recordPath(code, kindName, id)) : { data: { id: '' } as AnyRecord, etag: '' }])
  return { known, mayWrite: overview.mayWrite, findings: findings.filter((f) => id && f.subjects.some((s) => s.id === id)), record: one.data, etag: one.etag }
}, { household: code, paused: () => editing.value })
const removing = ref(false)
const { failure: refusal, act } = useAction()

async function saved(record: AnyRecord) {
  if (!id) return router.replace(`/households/${code}/records/${kindName}/${record.id}`)
  editing.value = false
  await reload()
}

function left() {
  if (!id) router.back()
  editing.value = false
}

const remove = () => act(async () => {
  await records('DELETE', recordPath(code, kindName, id), undefined, { 'If-Match': data.value?.etag ?? '' })
  await router.push(`/households/${code}/records/${kindName}`)
})
</script>

<template>
  <div class="page stack">
    <p class="small"><router-link :to="`/households/${code}/records/${kindName}`">{{ capital(plain(kind?.plural ?? '')) }}</router-link></p>
    <p v-if="!kind" class="sheet">There is no kind of record called {{ kindName }}.</p>
    <LoadState v-else-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <h1>{{ id ? labelOf(kind, data.record) : `New ${plain(kind.name)}` }}</h1>
      <section v-if="data.findings.length" class="sheet"><FindingList :findings="data.findings" :code="code" /></section>
      <RecordForm v-if="editing" :kind="kind" :record="data.record" :etag="data.etag" :known="data.known" :code="code" @saved="saved" @leave="left" @again="reload" />
      <section v-else class="sheet stack">
        <dl class="facts">
          <template v-for="m in kind.members" :key="m.name"><template v-if="say(m, data.record[m.name], data.known)"><dt>{{ m.title }}</dt><dd :class="{ mono: isMono(m) }">{{ say(m, data.record[m.name], data.known) }}</dd></template></template>
        </dl>
        <div class="row">
          <v-btn v-if="data.mayWrite && kind.verbs.includes('set')" color="primary" @click="editing = true">Change</v-btn>
          <v-btn v-if="data.mayWrite && kind.verbs.includes('remove') && !removing" variant="outlined" @click="removing = true">Remove</v-btn>
          <router-link :to="`/households/${code}/journal?record=${id}`">Its history</router-link>
        </div>
        <div v-if="removing" class="stack-s"><p>Remove {{ plain(kind.name) }} {{ labelOf(kind, data.record) }}? The journal keeps what it was; what belongs to it goes along.</p>
          <div class="row"><v-btn color="error" @click="remove">Remove it</v-btn><v-btn variant="text" @click="removing = false">Leave it</v-btn></div></div>
        <ProblemNote v-if="refusal" :failure="refusal" />
      </section>
    </template>
  </div>
</template>
