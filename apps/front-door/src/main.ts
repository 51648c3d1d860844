import '@fontsource-variable/atkinson-hyperlegible-next';
import './base.css';
import { createApp } from 'vue';
import App from './App.vue';

createApp(App).mount('#app');
