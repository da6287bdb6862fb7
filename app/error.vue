<script setup lang="ts">
import type { NuxtError } from '#app'

/** What is shown in place of a page that fell over. */
defineProps<{ error: NuxtError }>()
useHead({ title: 'Out of order · Velvet Crane' })
const again = () => reloadNuxtApp({ path: '/', force: true })
</script>

<template>
  <div class="station fallen">
    <h1>This page fell over</h1>
    <p class="num">{{ error.message }}</p>
    <p>
      What was saved is safe, and a night that is running goes on without this page. Opening it anew usually helps;
      where it does not, the message above and the server’s log say what happened.
    </p>
    <div><Button size="small" label="Open it anew" @click="again" /></div>
  </div>
</template>

<style scoped>
.fallen {
  padding: 56px 64px;
  display: grid;
  gap: 14px;
  align-content: start;
  max-width: 760px;
}
</style>
