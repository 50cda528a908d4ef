<script setup lang="ts">
import { ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import QrCode from '../../parts/QrCode.vue'
import RecipeSteps from '../../parts/RecipeSteps.vue'
import { counted } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

/** What to key in on the device of one path, held in the hand in front of the screen. */
const route = useRoute()
const code = String(route.params.code)
const path = { code, id: String(route.params.id) }
const { data, failure, reload } = useResource(async () => {
  const [card, overview] = await Promise.all([must(api.GET('/api/v1/households/{code}/paths/{id}/card', { params: { path } })), must(api.GET('/api/v1/households/{code}/overview', { params: { path: { code } } }))])
  return { card, mayWrite: overview.mayWrite }
}, { household: code })
const asking = ref('') // id of the secret, or wifi
const why = ref('')
const shown = ref<{ id: string; body: string }>()
const wifi = ref<Schemas['WiFiCode']>()
const { failure: refusal, busy, act } = useAction()
const minute = 60_000

const show = () => act(async () => {
  const body = { why: why.value }
  if (asking.value === 'wifi') {
    wifi.value = await must(api.POST('/api/v1/households/{code}/segments/{id}/wifi-code', { params: { path: { code, id: data.value!.card.segment!.id } }, body }))
    setTimeout(() => { wifi.value = undefined }, minute)
  } else {
    const id = asking.value
    shown.value = { id, body: (await must(api.POST('/api/v1/households/{code}/secrets/{id}/reveal', { params: { path: { code, id } }, body }))).body }
    setTimeout(() => { shown.value = undefined }, minute)
  }
  asking.value = ''
  why.value = ''
})
const ask = (what: string) => { asking.value = what; why.value = '' }
const hasWiFi = (c: Schemas['EntryCard']) => c.segment?.id && c.lines.some((l, n) => l.what === 'wifi' && l.known && c.lines[n + 1]?.secret?.id)
</script>

<template>
  <div class="page stack">
    <p class="small"><router-link :to="`/households/${code}/paths`">Paths</router-link></p>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <h1>What to enter on {{ data.card.device.label }}</h1>
      <p class="quiet">{{ data.card.path.label }}<template v-if="data.card.room?.label">, in {{ data.card.room.label }}</template></p>
      <p v-if="data.card.missing" class="sheet missing">{{ counted(data.card.missing, 'line') }} below cannot be filled in yet, because nothing is recorded. Add it to the source, the segment or the account before you go to the screen.</p>
      <section class="sheet" aria-label="To enter">
        <dl class="lines">
          <div v-for="(l, n) in data.card.lines" :key="n" class="line">
            <dt>{{ l.title }}</dt>
            <dd>
              <template v-if="l.secret?.id"><span v-if="shown?.id === l.secret.id" class="mono value">{{ shown.body }}</span><v-btn v-else-if="data.mayWrite" variant="outlined" size="small" @click="ask(l.secret.id)">Show {{ l.secret.label }}</v-btn><span v-else class="quiet">{{ l.secret.label }}</span></template>
              <span v-else-if="l.value" class="mono value">{{ l.value }}</span>
              <span v-else-if="!l.known" class="not">not recorded</span>
              <span v-if="l.others?.length" class="small quiet">or {{ l.others.join(', ') }}</span>
              <span v-if="l.entered" class="small differs">Recorded as entered: <span class="mono">{{ l.entered }}</span></span>
            </dd>
          </div>
        </dl>
        <div v-if="hasWiFi(data.card) && data.mayWrite && !wifi" class="row"><v-btn variant="outlined" @click="ask('wifi')">Show the Wi-Fi network as a code</v-btn></div>
        <figure v-if="wifi" class="wifi"><QrCode :rows="wifi.qr" :of="`the Wi-Fi network ${wifi.ssid}`" /><figcaption class="stack-s"><span>A phone or tablet joins <strong>{{ wifi.ssid }}</strong> when its camera sees this code. It disappears after a minute.</span><span v-if="wifi.caution" class="small">The name or the password contains characters that some cameras misread. If the code does not work, type them in.</span><v-btn variant="outlined" size="small" class="hide" @click="wifi = undefined">Hide</v-btn></figcaption></figure>
        <form v-if="asking" class="stack" @submit.prevent="show">
          <v-text-field v-model="why" v-first label="Why you need it" hint="It stays in the journal." persistent-hint />
          <div class="row"><v-btn type="submit" color="primary" :disabled="why.length < 3 || busy">Show it for a minute</v-btn><v-btn variant="text" @click="asking = ''">Cancel</v-btn></div>
        </form>
        <ProblemNote v-if="refusal" :failure="refusal" />
      </section>
      <section v-if="data.card.steps.length" class="sheet stack-s" aria-labelledby="steps"><h2 id="steps">The firm's steps for this device</h2><RecipeSteps :steps="data.card.steps" :code="code" :may-write="data.mayWrite" @changed="reload" /></section>
    </template>
  </div>
</template>

<style scoped>
.lines { margin: 0; }
.line { display: grid; grid-template-columns: minmax(160px, 1fr) 2fr; gap: 4px 18px; padding: 12px 0; border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.12); align-items: baseline; }
.line:last-child { border-bottom: none; }
.line dd { margin: 0; display: flex; flex-wrap: wrap; gap: 4px 12px; align-items: baseline; }
.value { font-size: 1.35rem; overflow-wrap: anywhere; }
.not { color: rgb(var(--v-theme-failed)); font-weight: 600; }
.differs { color: rgb(var(--v-theme-marginal)); flex-basis: 100%; }
.missing { border-left: 4px solid rgb(var(--v-theme-marginal)); }
.wifi { display: flex; flex-wrap: wrap; gap: 16px; align-items: center; margin: 12px 0 0; }
.hide { align-self: flex-start; }
@media (max-width: 599px) { .line { grid-template-columns: minmax(0, 1fr); } }
</style>
