<script setup lang="ts">
/** An address at which nothing is kept. */
const route = useRoute()
</script>

<template>
  <div class="station lost">
    <h1>Nothing is kept at this address</h1>
    <p class="num">{{ route.fullPath }}</p>
    <p>A bookmark of an earlier edition, or a letter too many: what was made is found from the stations above.</p>
  </div>
</template>

<style scoped>
.lost {
  padding: 56px 64px;
  display: grid;
  gap: 14px;
  align-content: start;
}
</style>
