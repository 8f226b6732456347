<script lang="ts">
  import Moon from '@lucide/svelte/icons/moon';
  import Sun from '@lucide/svelte/icons/sun';
  import { router } from 'svelte-spa-router';
  import { mode, switchMode } from '../ui/mode.svelte';
  import BucketMark from '../ui/BucketMark.svelte';

  interface Props {
    /** Somebody goes past the menu to the content. */
    onskip: () => void;
  }
  let { onskip }: Props = $props();

  const places = [
    { name: 'Desk', href: '#/', here: (path: string) => path === '/' || path.startsWith('/query') },
    { name: 'Services and keys', href: '#/services', here: (path: string) => path === '/services' },
    { name: 'Feeds', href: '#/feeds', here: (path: string) => path === '/feeds' },
    { name: 'Reports', href: '#/reports', here: (path: string) => path.startsWith('/report') },
    { name: 'Notices', href: '#/notices', here: (path: string) => path === '/notices' },
    { name: 'Sheets', href: '#/sheets', here: (path: string) => path === '/sheets' },
    { name: 'Runs', href: '#/runs', here: (path: string) => path === '/runs' },
  ];
</script>

<header
  class="flex h-10 shrink-0 items-stretch gap-5 border-b px-4 max-[700px]:gap-2 max-[700px]:px-2"
  style="border-color: var(--line); background: linear-gradient(var(--paper), var(--band))"
>
  <button class="skip" onclick={onskip}>Skip to the content</button>
  <a href="#/" class="flex items-center gap-3 font-bold" style="color: var(--ink)">
    <BucketMark level={0.8} size={24} /> <span class="max-[700px]:sr-only">Tin Bucket</span>
  </a>
  <nav
    class="flex min-w-0 items-stretch gap-5 overflow-x-auto pl-2 whitespace-nowrap max-[700px]:gap-3.5"
    aria-label="Main"
  >
    {#each places as place (place.href)}
      {@const here = place.here(router.location)}
      <a
        href={place.href}
        class="place flex items-center"
        class:here
        aria-current={here ? 'page' : undefined}
      >
        {place.name}
      </a>
    {/each}
  </nav>
  <button
    class="ml-auto flex cursor-pointer items-center gap-2 px-2"
    style="color: var(--muted)"
    onclick={switchMode}
    aria-label={mode.dark ? 'Switch to light' : 'Switch to dark'}
    title={mode.dark ? 'Switch to light' : 'Switch to dark'}
  >
    {#if mode.dark}<Sun size={17} />{:else}<Moon size={17} />{/if}
  </button>
</header>

<style>
  .place {
    color: var(--muted);
    border-bottom: 3px solid transparent;
    padding: 3px 2px 0;
  }
  .place:hover {
    color: var(--damson);
  }
  .place.here {
    color: var(--damson);
    border-bottom-color: var(--damson);
    font-weight: 600;
  }
  .skip {
    position: absolute;
    left: 8px;
    top: -60px;
    z-index: 50;
    padding: 6px 12px;
    border-radius: 7px;
    background: var(--paper);
    color: var(--link);
    box-shadow: var(--shadow);
  }
  .skip:focus {
    top: 6px;
  }
</style>
