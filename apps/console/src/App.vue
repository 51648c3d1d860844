<script setup lang="ts">
import ThemedRoot from './ThemedRoot.vue';
</script>

<template>
  <ThemedRoot><RouterView /></ThemedRoot>
</template>
