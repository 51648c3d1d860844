import '@fontsource-variable/atkinson-hyperlegible-next';
import './base.css';
import { createApp } from 'vue';
import App from './App.vue';
import { i18n } from './words/index.ts';

createApp(App).use(i18n).mount('#app');
