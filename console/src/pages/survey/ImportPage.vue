<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { requestKey, sendBytes, type Schemas } from '../../api/client'
import { me } from '../../me'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { useAction } from '../../useAction'
import { capital, counted } from '../../words'

/** Importing a file: first a preview line by line, then the import. */
const code = String(useRoute().params.code)
const text = ref('')
const file = ref<File>()
const what = ref('')
const partly = ref(false)
const addUnknown = ref(false)
const looked = ref<Schemas['Import']>()
const written = ref<Schemas['Import']>()
const { failure, busy, act } = useAction()
const kinds = computed(() => [{ title: 'Detect automatically', value: '' }, { title: 'Lease or neighbour table', value: 'table' }, { title: 'Contacts (vCard)', value: 'contacts' },
  ...me.kinds.filter((k) => k.verbs.includes('add')).map((k) => ({ title: `CSV of ${k.nouns}`, value: k.plural }))])
const marks: Record<string, string> = { added: 'proven', changed: 'in-hand', unchanged: 'untried', unknown: 'warning', refused: 'blocker' }
const shown = computed(() => written.value ?? looked.value)
const counts = computed(() => Object.entries(shown.value?.counts ?? {}).map(([actName, n]) => `${n} ${actName}`).join(', '))
let key = requestKey()

function changed() {
  looked.value = undefined
  written.value = undefined
  key = requestKey()
}

function bring(dry: boolean): Promise<Schemas['Import']> {
  const query = new URLSearchParams({ ...(what.value && { what: what.value }), ...(dry && { dry: 'true' }), ...(partly.value && { partly: 'true' }), ...(addUnknown.value && { addUnknown: 'true' }) })
  return sendBytes(`/households/${code}/import?${query}`, file.value ?? text.value, { 'Idempotency-Key': dry ? requestKey() : key })
}
const look = () => act(async () => { written.value = undefined; looked.value = await bring(true) })
const write = () => act(async () => {
  const done = await bring(false)
  if (done.written) written.value = done
  else looked.value = done
})
const choose = (e: Event) => { file.value = (e.target as HTMLInputElement).files?.[0]; changed() }
</script>

<template>
  <div class="page stack">
    <div class="row between"><h1>Import a file</h1><router-link :to="`/households/${code}/survey`">Survey records</router-link></div>
    <form class="sheet stack" @submit.prevent="look">
      <p class="small quiet">CSV with field names in the first line; lease tables in three common forms; a neighbour or address table as <span class="mono">ip neigh</span> or <span class="mono">ip -j addr</span> prints it; contacts as vCard.</p>
      <label class="pick">{{ file ? file.name : 'Choose a file' }}<input type="file" accept=".csv,.txt,.vcf,.json,.leases,text/*" @change="choose" /></label>
      <v-textarea v-if="!file" v-model="text" label="Or paste it here" rows="5" class="mono" spellcheck="false" @update:model-value="changed" />
      <div class="fields">
        <v-select v-model="what" label="What it is" :items="kinds" @update:model-value="changed" />
        <div><label class="check"><input v-model="addUnknown" type="checkbox" @change="changed" /> Add a device for each unknown network adapter</label><label class="check"><input v-model="partly" type="checkbox" /> Import the valid lines even if others are refused</label></div>
      </div>
      <div class="row"><v-btn type="submit" :variant="looked ? 'outlined' : 'flat'" color="primary" :disabled="busy || (!file && !text)">Preview</v-btn><v-btn v-if="looked && !written" color="primary" :disabled="busy || (!!looked.counts.refused && !partly)" @click="write">Import</v-btn></div>
      <ProblemNote v-if="failure" :failure="failure" />
    </form>
    <section v-if="shown" class="sheet stack" aria-labelledby="lines">
      <h2 id="lines">{{ written ? 'Imported' : 'Preview' }}: {{ counted(shown.lines.length, 'line') }}</h2>
      <p role="status">{{ capital(shown.form) }}: {{ counts || 'no lines' }}.<template v-if="looked && !written && looked.counts.refused && !partly"> Correct the refused lines, or import only the others.</template></p>
      <table>
        <thead><tr><th scope="col">Line</th><th scope="col">Result</th><th scope="col">Record</th><th scope="col">Detail</th></tr></thead>
        <tbody><tr v-for="l in shown.lines" :key="l.line"><td class="num">{{ l.line }}</td><td><StateMark :state="marks[l.act] ?? 'untried'" :word="l.act" /></td><td>{{ l.label }}</td><td>{{ l.detail }}</td></tr></tbody>
      </table>
    </section>
    <section class="sheet stack-s" aria-labelledby="out">
      <h2 id="out">Export</h2>
      <p class="small quiet">An exported file can be edited and imported again; its lines find their records.</p>
      <ul class="plain outs"><li v-for="k in me.kinds.filter((k) => k.verbs.includes('add'))" :key="k.name"><a :href="`/api/v1/households/${code}/export/${k.plural}`" :download="`${code}-${k.plural}.csv`">{{ capital(k.nouns) }}</a></li><li><a :href="`/api/v1/households/${code}/export/contacts`" :download="`${code}-contacts.vcf`">Contacts</a></li></ul>
    </section>
  </div>
</template>

<style scoped>
.outs { columns: 3 160px; }
.outs li { min-height: 32px; }
</style>
