<script setup lang="ts">
import { mdiAlertCircleOutline, mdiClipboardCheckOutline, mdiDotsHorizontal, mdiCalendarOutline, mdiFormatListBulleted, mdiHandshakeOutline, mdiHomeOutline, mdiNotebookOutline, mdiPlayCircleOutline, mdiStairs, mdiTelevision, mdiTransitConnectionVariant } from '@mdi/js'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useDisplay } from 'vuetify'
import { supposed, supposedSteps, supposing } from '../../supposed'
import { counted } from '../../words'

const route = useRoute()
const { width } = useDisplay()
const wide = computed(() => width.value >= 900)
const base = computed(() => `/households/${String(route.params.code)}`)

interface Place { key: string; to: string; title: string; icon: string }
const places = computed<Place[]>(() => [
  { key: 'overview', to: base.value, title: 'Overview', icon: mdiHomeOutline },
  { key: 'survey', to: `${base.value}/survey`, title: 'Survey', icon: mdiStairs },
  { key: 'devices', to: `${base.value}/devices`, title: 'Devices', icon: mdiTelevision },
  { key: 'paths', to: `${base.value}/paths`, title: 'Paths', icon: mdiTransitConnectionVariant },
  { key: 'forecast', to: `${base.value}/forecast`, title: 'What plays', icon: mdiPlayCircleOutline },
  { key: 'proving', to: `${base.value}/proving`, title: 'Proving', icon: mdiClipboardCheckOutline },
  { key: 'issues', to: `${base.value}/issues`, title: 'Issues', icon: mdiAlertCircleOutline },
  { key: 'handover', to: `${base.value}/handover`, title: 'Handover', icon: mdiHandshakeOutline },
  { key: 'visits', to: `${base.value}/visits`, title: 'Visits', icon: mdiCalendarOutline },
  { key: 'records', to: `${base.value}/records`, title: 'All records', icon: mdiFormatListBulleted },
  { key: 'journal', to: `${base.value}/journal`, title: 'Journal', icon: mdiNotebookOutline },
])
const thumb = computed<Place[]>(() => [
  ...['overview', 'walk', 'devices', 'issues'].map((key) => (key === 'walk' ? { key, to: `${base.value}/survey/walk`, title: 'Walk', icon: mdiStairs } : places.value.find((p) => p.key === key)!)),
  { key: 'more', to: `${base.value}/more`, title: 'More', icon: mdiDotsHorizontal },
])
const onPaper = computed(() => supposing(String(route.params.code)))
const here = computed(() => (wide.value && route.meta.place === 'walk' ? 'survey' : route.meta.place))
</script>

<template>
  <v-navigation-drawer v-if="wide" permanent width="188" color="background" class="rail">
    <nav aria-label="Household">
      <div class="mono code">{{ route.params.code }}</div>
      <router-link v-for="p in places" :key="p.key" :to="p.to" class="place" :class="{ here: here === p.key }" :aria-current="here === p.key ? 'page' : undefined">
        <v-icon :icon="p.icon" size="20" />{{ p.title }}
      </router-link>
    </nav>
  </v-navigation-drawer>
  <v-main id="main" :class="{ paper: onPaper }">
    <p v-if="onPaper" class="strip row between" role="status"><span><strong>Supposed: {{ counted(supposed.changes.length, 'change') }}.</strong> Nothing is written.</span>
      <span class="row"><router-link :to="`${base}/suppose`">What would be different</router-link><button type="button" class="off" @click="supposed.on = false">Show the home as it is</button></span></p>
    <router-view :key="`${route.path} ${onPaper ? JSON.stringify(supposedSteps) : ''}`" />
  </v-main>
  <nav v-if="!wide" class="thumb" aria-label="Household">
    <router-link v-for="p in thumb" :key="p.key" :to="p.to" :class="{ here: here === p.key }" :aria-current="here === p.key ? 'page' : undefined">
      <v-icon :icon="p.icon" size="22" /><span>{{ p.title }}</span>
    </router-link>
  </nav>
</template>

<style scoped>
.rail { border-right: 1px solid rgb(var(--v-theme-line)); }
.rail nav { padding: 16px 0; display: grid; }
.code { padding: 0 18px 10px; color: rgba(var(--v-theme-on-surface), .78); }
.place { display: flex; align-items: center; gap: 12px; padding: 0 18px; min-height: 44px; color: inherit; text-decoration: none; border-left: 3px solid transparent; }
.place:hover { background: rgb(var(--v-theme-surface)); }
.place.here { border-left-color: rgb(var(--v-theme-primary)); background: rgb(var(--v-theme-surface)); font-weight: 650; }
.thumb { position: fixed; inset: auto 0 0 0; z-index: 1005; display: grid; grid-template-columns: repeat(5, 1fr); background: rgb(var(--v-theme-surface)); border-top: 1px solid rgb(var(--v-theme-line)); }
.thumb a { display: grid; justify-items: center; align-content: center; gap: 2px; min-height: 58px; font-size: .8125rem; color: inherit; text-decoration: none; border-top: 3px solid transparent; }
.thumb a.here { border-top-color: rgb(var(--v-theme-primary)); font-weight: 650; }
.paper { background: repeating-linear-gradient(135deg, transparent 0 22px, rgba(var(--v-theme-secondary), .09) 22px 24px); }
.strip { position: sticky; top: 48px; z-index: 1003; padding: 4px 16px; background: rgb(var(--v-theme-surface)); border-bottom: 2px dashed rgb(var(--v-theme-secondary)); }
.off { min-height: 44px; padding: 0; color: rgb(var(--v-theme-primary)); background: none; border: 0; font: inherit; text-decoration: underline 1px; text-underline-offset: 2px; cursor: pointer; }
</style>
