<script setup lang="ts">
import BoxPage from './BoxPage.vue';
import CodePage from './CodePage.vue';
import HelpPage from './HelpPage.vue';
import LanguageChoice from './LanguageChoice.vue';
import LinkPage from './LinkPage.vue';
import ReceiptPage from './ReceiptPage.vue';
import SessionPage from './SessionPage.vue';
import { place } from './door.ts';
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
