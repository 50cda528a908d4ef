<script setup lang="ts">
import { ref } from 'vue'
import { api, must } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import { counted } from '../../words'
import { useAction } from '../../useAction'

/** Erases a home's personal data for good: asked for twice, with a reason. */
const props = defineProps<{ code: string }>()
const emit = defineEmits<{ done: [] }>()
const asking = ref(false)
const typed = ref('')
const why = ref('')
const said = ref('')
const { failure, busy, act } = useAction()

const erase = () => act(async () => {
  const done = await must(api.POST('/api/v1/households/{code}/erase', { params: { path: { code: props.code } }, body: { code: typed.value.trim(), why: why.value } }))
  said.value = `Erased in ${counted(done.records, 'record')}. Earlier backups still contain it.`
  asking.value = false
  emit('done')
})
</script>

<template>
  <section class="sheet stack" aria-labelledby="erase">
    <h2 id="erase">Personal data</h2>
    <p v-if="said" role="status">{{ said }}</p>
    <div v-if="!asking" class="row between"><p class="small quiet grow">On request, contacts, address, access notes, log-in names and reporters are overwritten in records, journal and search.</p>
      <v-btn variant="outlined" @click="asking = true">Erase …</v-btn></div>
    <form v-else class="stack" @submit.prevent="erase">
      <p>This cannot be undone. Check free notes, photographs and earlier backups yourself.</p>
      <v-text-field v-model="why" label="Who asked for it, and when" hint="This stays in the journal, so write no personal data here." persistent-hint :error-messages="failure?.faultAt('/why')" />
      <v-text-field v-model="typed" :label="`Type ${code} to continue`" autocomplete="off" />
      <ProblemNote v-if="failure" :failure="failure" />
      <div class="row"><v-btn type="submit" color="error" :disabled="busy || !why || typed.trim() !== code">Erase for good</v-btn><v-btn variant="text" @click="asking = false">Cancel</v-btn></div>
    </form>
  </section>
</template>
