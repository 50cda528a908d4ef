<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, must, type Schemas } from '../../api/client'
import { me } from '../../me'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { useAction } from '../../useAction'

/** The custodian of the home, and what is under way to change that. */
const props = defineProps<{ overview: Schemas['Overview']; code: string }>()
const emit = defineEmits<{ changed: [] }>()
const role = computed(() => me.session?.person.role)
const mayAssign = computed(() => role.value === 'lead' || role.value === 'coordinator')
const assigning = ref(false)
const to = ref<string>()
const why = ref('')
const { failure, act } = useAction()
const choices = computed(() => me.people.filter((p) => p.role !== 'observer' && p.id !== props.overview.custodian.id).map((p) => ({ title: p.name, value: p.id })))

const assign = () => act(async () => {
  await must(api.POST('/api/v1/households/{code}/assign', { params: { path: { code: props.code } }, body: { to: to.value ?? '', why: why.value } }))
  assigning.value = false
  emit('changed')
})
</script>

<template>
  <section class="sheet stack-s" aria-labelledby="who">
    <h2 id="who">Custodian</h2>
    <p><strong>{{ overview.custodian.name }}</strong>, {{ overview.custodian.role }}</p>
    <p v-if="overview.handover"><router-link :to="`/households/${code}/handover/${overview.handover.record.id}`" class="row-link"><StateMark :state="overview.handover.record.state" :word="`Handover ${overview.handover.record.state}`" /> <span>to {{ overview.handover.to.name }}</span></router-link></p>
    <div v-if="!assigning" class="row">
      <router-link v-if="overview.mayWrite && overview.handover?.record.state !== 'offered'" :to="`/households/${code}/handover`">Hand over</router-link>
      <v-btn v-if="mayAssign" variant="outlined" size="small" @click="assigning = true">Assign custody</v-btn>
    </div>
    <form v-else class="stack" @submit.prevent="assign">
      <v-select v-model="to" :items="choices" label="To" />
      <v-text-field v-model="why" label="Why" />
      <ProblemNote v-if="failure" :failure="failure" />
      <div class="row"><v-btn type="submit" color="primary" :disabled="!to || !why">Assign</v-btn><v-btn variant="text" @click="assigning = false">Cancel</v-btn></div>
    </form>
  </section>
</template>
