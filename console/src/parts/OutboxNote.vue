<script setup lang="ts">
import { ref } from 'vue'
import { drop, outbox, refused, send, tryAgain, waiting } from '../outbox'
import { counted, when } from '../words'

/** What is not sent yet, and what the server refused: nothing of it is lost. */
const shown = ref(false)
</script>

<template>
  <section v-if="outbox.parcels.length" class="note stack-s" role="status" aria-label="Not sent yet">
    <div class="row between">
      <span><strong v-if="waiting.length">{{ counted(waiting.length, 'entry', 'entries') }} not sent yet<template v-if="outbox.why">: {{ outbox.why }}</template>.</strong>
        <strong v-if="refused.length"> {{ counted(refused.length, 'entry', 'entries') }} refused.</strong>
        <template v-if="outbox.kept"> They stay on this device until Kaiku has them.</template>
        <template v-else> This browser cannot keep them: leave the page open.</template></span>
      <span class="row"><v-btn v-if="outbox.why" size="small" variant="outlined" :disabled="outbox.sending" @click="send">Send now</v-btn><v-btn size="small" variant="text" :aria-expanded="shown || refused.length > 0" @click="shown = !shown">{{ shown ? 'Hide' : 'Show' }}</v-btn></span>
    </div>
    <ul v-if="shown || refused.length" class="plain ruled">
      <li v-for="p in outbox.parcels" v-show="shown || p.refused" :key="p.n" class="stack-s">
        <span>{{ p.title }} <span class="quiet small">{{ p.code }}, done {{ when(p.doneAt) }}</span></span>
        <template v-if="p.refused">
          <span class="small"><strong>{{ p.refused.detail }}</strong> {{ p.refused.faults?.map((f) => f.detail).join(' ') }} {{ p.refused.remedy }}</span>
          <span class="row"><v-btn size="small" variant="outlined" @click="tryAgain(p)">Send again</v-btn><v-btn size="small" variant="text" @click="drop(p)">Discard</v-btn></span>
        </template>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.note { border-left: 4px solid rgb(var(--v-theme-warning)); background: rgb(var(--v-theme-surface)); padding: 8px 14px; }
</style>
