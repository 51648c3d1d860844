<script setup lang="ts">
import { defineAsyncComponent } from 'vue';
import CodePage from './CodePage.vue';
import LanguageChoice from './LanguageChoice.vue';
import LinkPage from './LinkPage.vue';
import { inBackground } from '@porch/client';
import { askDesk, place } from './door.ts';

inBackground('naming the page', askDesk());
const BoxPage = defineAsyncComponent(() => import('./BoxPage.vue'));
const HelpPage = defineAsyncComponent(() => import('./HelpPage.vue'));
const ReceiptPage = defineAsyncComponent(() => import('./ReceiptPage.vue'));
const SessionPage = defineAsyncComponent(() => import('./SessionPage.vue'));
</script>

<template>
  <LanguageChoice v-if="place.name !== 'box'" />
  <BoxPage v-if="place.name === 'box'" />
  <CodePage v-else-if="place.name === 'code'" />
  <LinkPage v-else-if="place.name === 'link'" :token="place.token" />
  <SessionPage v-else-if="place.name === 'session'" />
  <HelpPage v-else-if="place.name === 'help'" />
  <ReceiptPage v-else />
</template>
