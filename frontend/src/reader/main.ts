/** A report that stands alone: its words and tables are there, and its charts are drawn here. */
import { mount } from 'svelte';
import type { Chart, ChartMade } from '../api/client';
import { readJson } from '../api/json';
import ChartDrawing from '../chart/ChartDrawing.svelte';
import { mode } from '../ui/mode.svelte';
import './reader.css';

interface Drawn {
  made: ChartMade;
  chart: Chart;
}

const dark = window.matchMedia('(prefers-color-scheme: dark)');
function show(on: boolean): void {
  mode.dark = on;
  document.documentElement.dataset.mode = on ? 'dark' : 'light';
}
show(dark.matches);
dark.addEventListener('change', (event) => show(event.matches));
// Paper is white.
window.addEventListener('beforeprint', () => show(false));
window.addEventListener('afterprint', () => show(dark.matches));

const drawings = readJson(document.getElementById('drawings')?.textContent ?? '[]') as Drawn[];
for (const target of document.querySelectorAll<HTMLElement>('[data-drawing]')) {
  const one = drawings[Number(target.dataset.drawing)];
  if (!one) continue;
  target.replaceChildren();
  mount(ChartDrawing, { target, props: { ...one, height: Number(target.dataset.height) } });
}
// A choice is read at once.
for (const field of document.querySelectorAll<HTMLSelectElement | HTMLInputElement>(
  'form.choices :is(select, input)',
))
  field.addEventListener('change', () => field.form?.requestSubmit());
