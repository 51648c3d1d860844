<script setup lang="ts">
import { darkTheme, NConfigProvider } from 'naive-ui';
import { computed, onScopeDispose, ref } from 'vue';
import { darkThemeOverrides, lightTheme } from './theme.ts';

/* What every window of the console has around it: our colours, light or dark as the computer has it. */
const query = window.matchMedia('(prefers-color-scheme: dark)');
const isDark = ref(query.matches);
const follow = () => (isDark.value = query.matches);
query.addEventListener('change', follow);
onScopeDispose(() => query.removeEventListener('change', follow));
const overrides = computed(() => (isDark.value ? darkThemeOverrides : lightTheme));
</script>

<template>
  <NConfigProvider :theme="isDark ? darkTheme : null" :theme-overrides="overrides" abstract>
    <slot />
  </NConfigProvider>
</template>
