<script setup lang="ts">
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { Failure } from '../../api/client'
import { logIn } from '../../me'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useAction } from '../../useAction'

const route = useRoute()
const router = useRouter()
const login = ref('')
const password = ref('')
const code = ref('')
const asked = ref(false) // for the code of a second factor
const { failure, busy, act } = useAction()

const submit = () => act(async () => {
  try {
    await logIn(login.value.trim(), password.value, code.value.trim())
  } catch (e) {
    if (!(e instanceof Failure) || e.problem.code !== 'code-needed') throw e
    asked.value = true
    return
  }
  const to = typeof route.query.to === 'string' && route.query.to.startsWith('/') && !route.query.to.startsWith('//') ? route.query.to : '/'
  await router.push(to)
})
</script>

<template>
  <v-main id="main">
    <div class="wrap">
      <form class="sheet stack" @submit.prevent="submit">
        <div class="row"><img src="/mark.svg" alt="" width="36" height="36" /><h1>Kaiku</h1></div>
        <p class="quiet">Home media installations: recorded, proven, handed over.</p>
        <v-text-field v-model="login" v-first label="Log-in name" autocomplete="username" autocapitalize="none" name="login" />
        <v-text-field v-model="password" label="Password" type="password" autocomplete="current-password" name="password" />
        <v-text-field v-if="asked" v-model="code" v-first label="Code of your second factor" inputmode="numeric" autocomplete="one-time-code" maxlength="6" name="code" />
        <ProblemNote v-if="failure" :failure="failure" />
        <v-btn type="submit" color="primary" :disabled="!login || !password || (asked && !code) || busy" block>{{ busy ? 'Logging in …' : 'Log in' }}</v-btn>
      </form>
    </div>
  </v-main>
</template>

<style scoped>
.wrap { min-height: 90vh; display: grid; place-items: center; padding: 16px; }
form { width: min(400px, 100%); padding: 28px 24px; gap: 16px; border-top: 4px solid rgb(var(--v-theme-primary)); }
</style>
