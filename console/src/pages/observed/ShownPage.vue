<script setup lang="ts">
import { mdiEyeOutline } from '@mdi/js'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import { me } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import { counted } from '../../words'

/** What a source shows to devices of the home, side by side, and what is missing against another source. */
const route = useRoute()
const code = String(route.params.code)
const path = { code }
const watches = ['screen', 'player', 'renderer', 'receiver', 'control-point']
const browsable = ['upnp-av', 'smb', 'm3u']
const { data, failure, reload } = useResource(async () => {
  const [{ records: sources }, { records: devices, labels }] = await Promise.all([must(api.GET('/api/v1/households/{code}/sources', { params: { path } })), must(api.GET('/api/v1/households/{code}/devices', { params: { path } }))])
  return { sources: sources.filter((s) => browsable.includes(s.protocol)).map((s) => ({ title: `${labels[s.device] ?? ''} ${s.name}`.trim(), value: s.id })), devices: devices.filter((d) => d.announces && d.roles?.some((r) => watches.includes(r))) }
}, { household: code })
const source = ref(String(route.params.id || ''))
const as = ref<string[]>([])
const against = ref<string>()
const seen = shallowRef<Schemas['SourceBrowse']>()
const all = ref(false)
const { failure: refusal, busy, act } = useAction()
watch(data, (d) => { if (!source.value && d?.sources.length) source.value = d.sources[0]!.value }, { immediate: true })
const others = computed(() => data.value?.sources.filter((s) => s.value !== source.value) ?? [])
const missing = computed(() => (seen.value?.against ? [{ title: `Not shown here, but by ${seen.value.against.source.label}`, list: seen.value.missingHere }, { title: `Shown here, but not by ${seen.value.against.source.label}`, list: seen.value.missingThere }] : []))
const most = 10
function byFolder(list: Schemas['MissingTitle'][]) {
  const out = new Map<string, string[]>()
  for (const m of list) out.set(m.folder, [...(out.get(m.folder) ?? []), m.title])
  return [...out].map(([folder, titles]) => ({ folder, titles }))
}
const ask = () => act(async () => {
  seen.value = undefined
  seen.value = await must(api.POST('/api/v1/households/{code}/sources/{id}/browse', { params: { path: { code, id: source.value } }, body: { as: as.value, ...(against.value && { against: against.value }) } }))
})
</script>

<template>
  <div class="page stack">
    <div class="row between"><h1>What each device sees</h1><router-link :to="`/households/${code}/devices`">All devices</router-link></div>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <p v-else-if="!data.sources.length" class="sheet">No recorded source can be browsed. <router-link :to="`/households/${code}/devices/observed`">Scan the network first.</router-link></p>
    <template v-else>
      <form class="sheet stack" @submit.prevent="ask">
        <div class="fields"><v-select v-model="source" label="Source" :items="data.sources" /><v-select v-model="against" label="Compare with (optional)" :items="others" clearable /></div>
        <fieldset class="plain"><legend>As seen by</legend>
          <p v-if="!data.devices.length" class="small quiet">No recorded device has a known announcement: <router-link :to="`/households/${code}/devices/observed`">scan the network</router-link> while the devices are on. Until then Kaiku browses as an unknown device.</p>
          <div class="who"><label v-for="d in data.devices" :key="d.id" class="check"><input v-model="as" type="checkbox" :value="d.id" :disabled="as.length >= 8 && !as.includes(d.id)" /> {{ d.name }}</label></div>
          <p v-if="!as.length && data.devices.length" class="small quiet">None chosen: Kaiku browses as an unknown device.</p>
        </fieldset>
        <p class="small quiet">Kaiku browses under the name that each device announces. A server that decides by address may show the device something else.</p>
        <div class="row"><v-btn v-if="me.session?.onSite" type="submit" color="primary" :prepend-icon="mdiEyeOutline" :disabled="busy || !source">{{ busy ? 'Browsing …' : 'Browse' }}</v-btn><p v-else class="small quiet">This Kaiku is not on the home's network. On a laptop there, run <span class="mono">kaiku source browse -H {{ code }}</span></p></div>
        <ProblemNote v-if="refusal" :failure="refusal" />
      </form>
      <section v-if="seen" class="sheet stack" aria-labelledby="shown">
        <h2 id="shown">{{ seen.source.label }}</h2>
        <div class="wide" tabindex="0" role="group" aria-label="Folders by device"><table>
          <thead><tr><th scope="col">Folder</th><th v-for="(v, n) in seen.views" :key="n" scope="col" class="num">{{ v.as?.label || 'an unknown device' }}</th><th v-if="seen.views.length > 1" scope="col">Same for all</th></tr></thead>
          <tbody><tr v-for="f in seen.folders" :key="f.folder"><th scope="row">{{ f.folder }}</th><td v-for="(n, i) in f.items" :key="i" class="num">{{ n < 0 ? 'not shown' : n }}</td><td v-if="seen.views.length > 1"><StateMark :state="f.differ ? 'warning' : 'pass'" :word="f.differ ? 'differs' : 'same'" /></td></tr></tbody>
        </table></div>
        <ul class="plain small"><li v-for="(v, n) in seen.views" :key="n"><strong>{{ v.as?.label || 'An unknown device' }}:</strong> {{ v.sentence }} {{ v.remark }} <span v-if="v.agent" class="mono quiet">{{ v.agent }}</span></li><li v-if="seen.against"><strong>{{ seen.against.source.label }}:</strong> {{ seen.against.sentence }}</li></ul>
      </section>
      <section v-for="m in missing" :key="m.title" class="sheet stack-s">
        <h2>{{ m.title }}: {{ counted(m.list.length, 'title') }}</h2>
        <div v-for="g in byFolder(m.list)" :key="g.folder"><h3>{{ g.folder }} ({{ g.titles.length }})</h3><ul class="plain titles"><li v-for="(t, n) in all ? g.titles : g.titles.slice(0, most)" :key="n">{{ t }}</li></ul><v-btn v-if="g.titles.length > most" variant="text" size="small" @click="all = !all">{{ all ? 'Show fewer' : `and ${g.titles.length - most} more` }}</v-btn></div>
      </section>
    </template>
  </div>
</template>

<style scoped>
fieldset { border: 0; padding: 0; margin: 0; }
legend { font-weight: 600; }
.who { display: grid; grid-template-columns: repeat(auto-fill, minmax(220px, 1fr)); gap: 0 12px; }
.fields { grid-template-columns: repeat(auto-fill, minmax(min(340px, 100%), 1fr)); }
.wide { overflow-x: auto; }
tr:last-child > th { border-bottom: 0; }
.titles { columns: 3 220px; }
tbody th { color: inherit; font-size: inherit; }
</style>
