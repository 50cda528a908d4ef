<script setup lang="ts">
import { ref } from 'vue'
import { api, must, type Schemas } from '../../api/client'
import { me } from '../../me'
import ProblemNote from '../../parts/ProblemNote.vue'
import QrCode from '../../parts/QrCode.vue'
import { useAction } from '../../useAction'

/** Sets up a second factor for one's own log-in, or takes it away. */
const emit = defineEmits<{ changed: [] }>()
const offer = ref<Schemas['SecondFactorOffer']>()
const removing = ref(false)
const password = ref('')
const code = ref('')
const { failure, busy, act } = useAction()

const ask = () => act(async () => { offer.value = await must(api.POST('/api/v1/me/second-factor/offer')) })

async function done() {
  me.session = await must(api.GET('/api/v1/me'))
  offer.value = undefined
  removing.value = false
  password.value = code.value = ''
  emit('changed')
}

const submit = () => act(async () => {
  const body = { password: password.value, code: code.value.trim() }
  if (offer.value) await must(api.POST('/api/v1/me/second-factor', { body: { ...body, secret: offer.value.secret } }))
  else await must(api.POST('/api/v1/me/second-factor/remove', { body }))
  await done()
})
const cancel = () => { offer.value = undefined; removing.value = false }
</script>

<template>
  <form class="sheet stack" @submit.prevent="submit">
    <h2>Second factor</h2>
    <p v-if="me.session?.secondFactor === 'needed'" role="status" class="needed">This firm asks people with your role for a second factor. Set it up before you go on.</p>
    <p class="small quiet">{{ me.session?.secondFactor === 'on' ? 'Set up. Besides your password, each log-in needs the code that your program shows.' : 'A program on your phone shows a code that changes every half minute (RFC 6238). Each log-in then needs it besides your password.' }} If you lose the phone, a coordinator can reset you.</p>
    <template v-if="offer">
      <div class="card"><QrCode :rows="offer.qr" of="the secret of your second factor" /><div class="stack-s"><span>Scan it with the program, or type the secret:</span><span class="mono secret">{{ offer.secret }}</span></div></div>
    </template>
    <template v-if="offer || removing">
      <v-text-field v-model="password" label="Your password" type="password" autocomplete="current-password" />
      <v-text-field v-model="code" label="The code that the program shows now" inputmode="numeric" autocomplete="one-time-code" maxlength="6" :error-messages="failure?.faultAt('/code')" />
    </template>
    <ProblemNote v-if="failure" :failure="failure" />
    <div class="row">
      <template v-if="offer || removing">
        <v-btn type="submit" color="primary" :disabled="!password || !code || busy">{{ offer ? 'Turn it on' : 'Remove it' }}</v-btn>
        <v-btn variant="text" @click="cancel">Cancel</v-btn>
      </template>
      <v-btn v-else-if="me.session?.secondFactor === 'on'" variant="outlined" @click="removing = true">Remove it …</v-btn>
      <v-btn v-else variant="outlined" :disabled="busy" @click="ask">Set it up …</v-btn>
    </div>
  </form>
</template>

<style scoped>
.card { display: flex; flex-wrap: wrap; gap: 16px; align-items: center; }
.card :deep(.qr) { width: 168px; }
.secret { overflow-wrap: anywhere; }
.needed { border-left: 4px solid rgb(var(--v-theme-primary)); padding: 6px 12px; }
</style>
