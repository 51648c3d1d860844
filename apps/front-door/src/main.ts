import '@fontsource-variable/atkinson-hyperlegible-next';
import './base.css';
import { whenSpoken } from '@porch/pages';
import { createApp } from 'vue';
import App from './App.vue';
import { firstLanguage, speak } from './words/index.ts';

whenSpoken({ speak, firstLanguage }, () => createApp(App).mount('#app'));
