import './app.css';
import { mount } from 'svelte';
import App from './App.svelte';
import { startMode } from './ui/mode.svelte';

startMode();

const target = document.getElementById('app');
if (target) mount(App, { target });
