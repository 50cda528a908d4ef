<script setup lang="ts">
import { useRoute, useRouter } from 'vue-router'
import { api, must } from '../../api/client'
import { me, whoAmI } from '../../me'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useAction } from '../../useAction'

/** A phone that photographed a code comes in with it: once, by a tap, so that no preview of the link spends it. */
const route = useRoute()
const router = useRouter()
const { failure, busy, act } = useAction()
const join = () => act(async () => {
  await must(api.POST('/api/v1/join/{code}', { params: { path: { code: String(route.params.code) } } }))
  me.session = undefined
  await whoAmI()
  await router.replace('/')
})
</script>

<template>
  <v-main id="main">
    <div class="page stack">
      <h1>Log in on this phone</h1>
      <div class="sheet stack"><p>You will be logged in as the person who made the code. It works once.</p><ProblemNote v-if="failure" :failure="failure" /><div><v-btn color="primary" size="large" :disabled="busy" @click="join">Log in</v-btn></div></div>
    </div>
  </v-main>
</template>
