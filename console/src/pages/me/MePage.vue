<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import { me } from '../../me'
import CodeCard from '../../parts/CodeCard.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { when } from '../../words'
import SecondFactor from './SecondFactor.vue'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

const router = useRouter()
const { data: logins, failure, reload } = useResource(() => must(api.GET('/api/v1/me/logins')))
const password = ref({ old: '', new: '' })
const token = ref({ name: '', days: '90' })
const told = ref<Schemas['TokenMade']>()
const changing = useAction()
const making = useAction()
const ending = useAction()

const changePassword = () => changing.act(async () => {
  await must(api.POST('/api/v1/me/password', { body: password.value }))
  me.session = null
  await router.push('/login')
})

const makeToken = () => making.act(async () => {
  told.value = await must(api.POST('/api/v1/me/tokens', { body: { name: token.value.name, days: Number(token.value.days) } }))
  token.value.name = ''
  await reload()
})

const feed = ref<Schemas['FeedMade']>()
const makeFeed = () => making.act(async () => {
  feed.value = await must(api.POST('/api/v1/me/calendar'))
  await reload()
})
const phone = ref<Schemas['Code']>()
const makeJoin = () => making.act(async () => { phone.value = await must(api.POST('/api/v1/me/join')) })
const origin = location.origin

const end = (id: string) => ending.act(async () => {
  await must(api.DELETE('/api/v1/me/logins/{id}', { params: { path: { id } } }))
  await reload()
})
</script>

<template>
  <v-main id="main">
    <div class="page stack">
      <h1>{{ me.session?.person.name }}</h1>
      <div class="columns">
        <form class="sheet stack" @submit.prevent="changePassword">
          <h2>Password</h2>
          <v-text-field v-model="password.old" label="Current password" type="password" autocomplete="current-password" />
          <v-text-field v-model="password.new" label="New password" type="password" autocomplete="new-password" hint="At least ten characters." persistent-hint :error-messages="changing.failure.value?.faultAt('/new')" />
          <p class="small quiet">Changing it ends every log-in, this one included.</p>
          <ProblemNote v-if="changing.failure.value" :failure="changing.failure.value" />
          <div><v-btn type="submit" color="primary" :disabled="!password.old || !password.new || changing.busy.value">Change password</v-btn></div>
        </form>
        <form class="sheet stack" @submit.prevent="makeToken">
          <h2>Token for a program</h2>
          <v-text-field v-model="token.name" label="What it is for" />
          <v-text-field v-model="token.days" label="Valid for (days)" inputmode="numeric" :error-messages="making.failure.value?.faultAt('/days')" />
          <ProblemNote v-if="making.failure.value" :failure="making.failure.value" />
          <p v-if="told" role="status" class="small">Shown only once: <span class="mono token">{{ told.token }}</span></p>
          <div><v-btn type="submit" color="primary" :disabled="!token.name || making.busy.value">Create token</v-btn></div>
        </form>
      </div>
      <SecondFactor @changed="reload" />
      <section class="sheet stack" aria-labelledby="phone">
        <h2 id="phone">Log in on your phone</h2>
        <p class="small quiet">Photograph the code with your phone to log in there as yourself, without typing. The code works once and expires after five minutes.</p>
        <CodeCard v-if="phone" :code="phone" how="Photograph it with your phone, or open this address there:" />
        <div><v-btn variant="outlined" :disabled="making.busy.value" @click="makeJoin">{{ phone ? 'Another code' : 'Show a code' }}</v-btn></div>
      </section>
      <section class="sheet stack" aria-labelledby="calendar">
        <h2 id="calendar">Calendar of your visits</h2>
        <p class="small quiet">A secret address from which any calendar program can fetch your visits in all homes and the waivers you review. A new address ends the previous one; you can also end it below.</p>
        <p v-if="feed" role="status" class="small">Shown only once: <span class="mono token">{{ origin }}{{ feed.path }}</span></p>
        <div><v-btn variant="outlined" :disabled="making.busy.value" @click="makeFeed">Create an address</v-btn></div>
      </section>
      <section class="sheet stack" aria-labelledby="logins">
        <h2 id="logins">Log-ins and tokens</h2>
        <LoadState v-if="!logins" :failure="failure" @again="reload" />
        <ul v-else class="plain ruled">
          <li v-for="l in logins" :key="l.id" class="row between">
            <span><strong>{{ l.name || 'unnamed' }}</strong> <span class="small quiet">{{ l.kind === 'token' ? 'token' : l.kind === 'calendar' ? 'calendar address' : 'log-in' }}, since {{ when(l.began) }}, ends {{ when(l.ends, false) }}<template v-if="l.current"> — this one</template></span></span>
            <v-btn v-if="!l.current" variant="outlined" size="small" :aria-label="`End ${l.name || 'unnamed'}`" @click="end(l.id)">End</v-btn>
          </li>
        </ul>
        <ProblemNote v-if="ending.failure.value" :failure="ending.failure.value" />
      </section>
    </div>
  </v-main>
</template>

<style scoped>
.columns { display: grid; grid-template-columns: 1fr 1fr; gap: 14px; align-items: start; }
.token { overflow-wrap: anywhere; }
@media (max-width: 899px) { .columns { grid-template-columns: minmax(0, 1fr); } }
</style>
