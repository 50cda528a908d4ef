<template>
  <v-main id="main"><div class="page stack"><h1>Page not found</h1><p>The address may be mistyped, or the record was removed. <router-link to="/">Go to Today.</router-link></p></div></v-main>
</template>
