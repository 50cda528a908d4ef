<script setup lang="ts">
import { ref } from 'vue'
import { api, must, type Schemas } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { plain } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

/** When this Kaiku repeats tests overnight, and what it found the last time. */
const props = defineProps<{ code: string; onSite: boolean }>()
const path = { code: props.code }
const { data: nightly, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/tests/nightly', { params: { path } })), { household: props.code })
const { failure, busy, act } = useAction()
const setting = ref(false)
const at = ref('03:00')

const set = (time: string) => act(async () => {
  await must(api.PUT('/api/v1/households/{code}/tests/nightly', { params: { path }, body: { at: time } }))
  setting.value = false
  await reload()
})
const begin = () => { at.value = nightly.value?.at || '03:00'; setting.value = true }
const place = (c: Schemas['NightUndone']) => `/households/${props.code}/proving/${c.test}`
</script>

<template>
  <section v-if="nightly && (onSite || nightly.last)" class="sheet stack-s" aria-labelledby="nightly">
    <div class="row between">
      <h2 id="nightly">Overnight</h2>
      <v-btn v-if="onSite && !setting" variant="outlined" @click="begin">{{ nightly.at ? 'Change' : 'Repeat every night' }}</v-btn>
    </div>
    <p v-if="nightly.at">Tests that disturb nobody are repeated every night at {{ nightly.at }}, in the name of {{ nightly.by }}.</p>
    <p v-else class="quiet">Nothing is repeated overnight.</p>
    <form v-if="setting" class="row" @submit.prevent="set(at)">
      <v-text-field v-model="at" type="time" label="Every night at" class="time" />
      <v-btn type="submit" color="primary" :disabled="busy || !at">Set</v-btn>
      <v-btn v-if="nightly.at" variant="outlined" :disabled="busy" @click="set('')">Repeat nothing</v-btn>
      <v-btn variant="text" @click="setting = false">Cancel</v-btn>
    </form>
    <ProblemNote v-if="failure" :failure="failure" />
    <template v-if="nightly.last">
      <p role="status">{{ nightly.last.sentence }}</p>
      <ul v-if="nightly.last.changed?.length || nightly.last.undone?.length" class="plain ruled">
        <li v-for="c in nightly.last.changed" :key="c.test"><StateMark :state="c.is" :word="plain(c.is)" /> <router-link :to="place(c)">{{ c.title }}</router-link> <span class="quiet">was {{ plain(c.was) }}</span><div class="small">{{ c.said }}</div></li>
        <li v-for="u in nightly.last.undone" :key="u.test"><router-link :to="place(u)">{{ u.title }}</router-link> <span class="quiet">could not be carried out</span><div class="small">{{ u.said }}</div></li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.time { max-width: 180px; }
</style>
