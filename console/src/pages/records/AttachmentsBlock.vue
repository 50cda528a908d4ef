<script setup lang="ts">
import { mdiCameraOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import { failureOf, records, requestKey, type AnyRecord } from '../../api/client'
import { personName } from '../../me'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import { when } from '../../words'
import { scaled } from './pictures'
import { loadKinds } from './useRecords'

/** Photographs and text files of one record: looked at, and added from the phone. */
const props = defineProps<{ code: string; kind: string; id: string; mayWrite: boolean }>()
const { data, failure, reload } = useResource(async () => (await loadKinds(props.code, ['attachment'])).attachment ?? [], { household: props.code })
const mine = computed(() => (data.value ?? []).filter((a) => (a.subject as { id: string }).id === props.id))
const chosen = ref<File>()
const caption = ref('')
const share = ref(0)
const { failure: refusal, busy, act } = useAction()
let key = requestKey()

function choose(e: Event) {
  chosen.value = (e.target as HTMLInputElement).files?.[0]
  key = requestKey()
}

const add = () => act(async () => {
  const file = chosen.value!
  const body = await scaled(file)
  const query = new URLSearchParams({ kind: props.kind, record: props.id, caption: caption.value, fileName: file.name.slice(0, 200) })
  await upload(`/api/v1/households/${props.code}/attachments?${query}`, body)
  chosen.value = undefined
  caption.value = ''
  await reload()
})

/** An upload that says how far it is, which fetch does not. */
function upload(url: string, body: Blob): Promise<void> {
  return new Promise((resolve, reject) => {
    const x = new XMLHttpRequest()
    x.open('POST', url)
    x.setRequestHeader('Content-Type', 'application/octet-stream')
    x.setRequestHeader('Idempotency-Key', key)
    x.upload.onprogress = (e) => { share.value = e.lengthComputable ? Math.round((100 * e.loaded) / e.total) : 0 }
    x.onload = () => { if (x.status < 300) { resolve() } else { reject(failureOf(x.responseText)) } }
    x.onerror = () => reject(new Error('no answer'))
    x.send(body)
  })
}
const bodyOf = (a: AnyRecord, size = 'full') => `/api/v1/households/${props.code}/attachments/${a.id}/body?size=${size}`
const removing = ref('')
const remove = (a: AnyRecord) => act(async () => {
  await records('DELETE', `/households/${props.code}/attachments/${a.id}`, undefined, { 'If-Match': `"${a.revision}"` })
  removing.value = ''
  await reload()
})
</script>

<template>
  <section class="sheet stack" aria-labelledby="attached">
    <h2 id="attached">Photographs and files</h2>
    <ProblemNote v-if="failure && !data" :failure="failure" />
    <p v-if="data && !mine.length" class="quiet">None yet.</p>
    <ul v-if="mine.length" class="plain pictures">
      <li v-for="a in mine" :key="a.id" class="stack-s">
        <a :href="bodyOf(a)" target="_blank" rel="noopener" :aria-label="String(a.caption)"><img v-if="a.width" :src="bodyOf(a, 'small')" :alt="String(a.caption)" loading="lazy" /><span v-else class="file mono">{{ a.fileName ?? 'text' }}</span></a>
        <div>{{ a.caption }}</div>
        <div class="small quiet">{{ personName(a.by) }}, {{ when(String(a.at)) }}</div>
        <div v-if="mayWrite"><v-btn v-if="removing !== a.id" variant="text" size="small" @click="removing = a.id">Remove</v-btn><v-btn v-else color="error" size="small" @click="remove(a)">Remove for good</v-btn></div>
      </li>
    </ul>
    <form v-if="mayWrite" class="stack" @submit.prevent="add">
      <label class="pick"><v-icon :icon="mdiCameraOutline" size="20" /> {{ chosen ? chosen.name : 'Take or choose a photograph, or a text file' }}<input type="file" accept="image/*,text/plain,.log,.txt" @change="choose" /></label>
      <template v-if="chosen">
        <v-text-field v-model="caption" v-first label="What it shows" />
        <div class="row"><v-btn type="submit" color="primary" :disabled="!caption || busy">{{ busy ? `Sending … ${share} %` : 'Attach' }}</v-btn><v-btn variant="text" @click="chosen = undefined">Cancel</v-btn></div>
      </template>
      <ProblemNote v-if="refusal" :failure="refusal" />
    </form>
  </section>
</template>

<style scoped>
.pictures { display: grid; grid-template-columns: repeat(auto-fill, minmax(150px, 1fr)); gap: 14px; }
.pictures img { width: 100%; aspect-ratio: 4 / 3; object-fit: cover; border-radius: 4px; border: 1px solid rgb(var(--v-theme-line)); }
.file { display: grid; place-items: center; aspect-ratio: 4 / 3; border: 1px solid rgb(var(--v-theme-line)); border-radius: 4px; overflow-wrap: anywhere; padding: 8px; }
.pick { display: inline-flex; align-items: center; gap: 10px; min-height: 44px; padding: 0 14px; border: 1.5px solid rgb(var(--v-theme-line)); border-radius: 6px; font-weight: 600; cursor: pointer; max-width: max-content; }
.pick:focus-within { outline: 2px solid rgb(var(--v-theme-secondary)); outline-offset: 2px; }
.pick input { position: absolute; width: 1px; height: 1px; opacity: 0; }
</style>
