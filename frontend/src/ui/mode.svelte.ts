/** Light or dark: the system's choice until the person makes one. */
const NAME = 'tin-bucket-mode';

export const mode = $state({ dark: false });

function show(): void {
  document.documentElement.dataset.mode = mode.dark ? 'dark' : 'light';
}

export function startMode(): void {
  const chosen = localStorage.getItem(NAME);
  mode.dark = chosen ? chosen === 'dark' : window.matchMedia('(prefers-color-scheme: dark)').matches;
  show();
}

export function switchMode(): void {
  mode.dark = !mode.dark;
  localStorage.setItem(NAME, mode.dark ? 'dark' : 'light');
  show();
}
