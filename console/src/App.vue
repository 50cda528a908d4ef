<script setup lang="ts">
import { mdiAccountGroupOutline, mdiFormatListNumbered, mdiHomeCityOutline, mdiLogout, mdiWeatherSunset } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { live } from './live'
import { logOut, me } from './me'
import { begin as beginOutbox, outbox } from './outbox'
import { counted } from './words'

const route = useRoute()
const router = useRouter()
const person = computed(() => me.session?.person)

watch(person, (p) => { if (p) void beginOutbox() }, { immediate: true })
const asking = ref(false) // whether to leave although something is not sent

async function leave() {
  if (outbox.parcels.length && !asking.value) {
    asking.value = true
    return
  }
  asking.value = false
  await logOut()
  await router.push('/login')
}
</script>

<template>
  <v-app>
    <a href="#main" class="skip">Skip to the content</a>
    <v-app-bar v-if="person" color="surface" class="bar">
      <router-link to="/" class="mark" aria-label="Kaiku, today">
        <img src="/mark.svg" alt="" width="28" height="28" /><span class="name">Kaiku</span>
      </router-link>
      <nav class="firm" aria-label="Firm">
        <router-link to="/" aria-label="Today" :class="{ here: route.path === '/' }"><v-icon :icon="mdiWeatherSunset" size="20" /><span>Today</span></router-link>
        <router-link to="/households" aria-label="Households" :class="{ here: route.path === '/households' }"><v-icon :icon="mdiHomeCityOutline" size="20" /><span>Households</span></router-link>
        <router-link v-if="['coordinator', 'lead'].includes(person.role)" to="/recipes" aria-label="Recipes" :class="{ here: route.path === '/recipes' }"><v-icon :icon="mdiFormatListNumbered" size="20" /><span>Recipes</span></router-link>
        <router-link v-if="person.role === 'coordinator'" to="/people" aria-label="People" :class="{ here: route.path === '/people' }"><v-icon :icon="mdiAccountGroupOutline" size="20" /><span>People</span></router-link>
      </nav>
      <span class="grow" />
      <router-link v-if="outbox.parcels[0]" :to="`/households/${outbox.parcels[0].code}/survey/walk`" class="who small">{{ outbox.parcels.length }} not sent</router-link>
      <router-link to="/me" class="who small row-link">{{ person.name }}<span class="quiet role">, {{ person.role }}</span></router-link>
      <v-btn variant="text" :icon="mdiLogout" aria-label="Log out" @click="leave" />
    </v-app-bar>
    <p v-if="person && live.connected === false" class="gone" role="status">Kaiku does not answer. What you see may be out of date; it is refreshed when the connection returns.</p>
    <p v-else-if="person && me.session?.notice" class="gone" role="status">{{ me.session.notice }}</p>
    <v-dialog v-model="asking" max-width="440" aria-labelledby="unsent">
      <div class="sheet stack">
        <h2 id="unsent">{{ counted(outbox.parcels.length, 'entry', 'entries') }} not sent yet</h2>
        <p>They stay on this device and are sent when {{ person?.name }} logs in here again.</p>
        <div class="row"><v-btn color="primary" @click="asking = false">Stay</v-btn><v-btn variant="outlined" @click="leave">Log out anyway</v-btn></div>
      </div>
    </v-dialog>
    <router-view />
  </v-app>
</template>

<style scoped>
.bar { border-bottom: 1px solid rgb(var(--v-theme-line)); padding-inline: 12px; }
.mark { display: flex; align-items: center; gap: 8px; text-decoration: none; color: inherit; margin-right: 18px; min-height: 44px; }
.name { font-weight: 700; font-size: 1.125rem; letter-spacing: .01em; }
.firm { display: flex; gap: 4px; }
.firm a { display: flex; align-items: center; gap: 6px; padding: 0 10px; min-height: 44px; color: inherit; text-decoration: none; border-bottom: 2px solid transparent; }
.firm a.here { border-bottom-color: rgb(var(--v-theme-primary)); font-weight: 600; }
.gone { position: fixed; inset: 48px 0 auto 0; z-index: 1004; padding: 8px 16px; background: rgb(var(--v-theme-warning)); color: rgb(var(--v-theme-on-warning)); font-weight: 600; text-align: center; }
.who { margin-right: 4px; text-align: right; min-height: 44px; display: flex; align-items: center; }
@media (max-width: 899px) { .mark .name, .role, .firm span { display: none; } .mark { margin-right: 4px; } .firm a { min-width: 44px; justify-content: center; } }
</style>
