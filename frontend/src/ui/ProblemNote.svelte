<!-- Something went wrong: what, the API's own words, where, and what to do. -->
<script lang="ts">
  import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
  import { withNames } from '../domain/jsonpath';
  import type { Snippet } from 'svelte';
  import type { Problem } from '../api/client';

  interface Props {
    problem: Problem;
    children?: Snippet;
  }
  let { problem, children }: Props = $props();
</script>

<div class="note" role="alert">
  <TriangleAlert size={17} class="mt-0.5 shrink-0" />
  <div class="min-w-0">
    <p class="font-semibold">{withNames(problem.what)}</p>
    {#if problem.words}<p class="mt-1">The service says: <q>{problem.words}</q></p>{/if}
    {#if problem.where}<p class="mt-1 wrap-anywhere"><code>{problem.where}</code></p>{/if}
    {#if problem.do}<p class="mt-1">{problem.do}</p>{/if}
    {@render children?.()}
  </div>
</div>

<style>
  .note {
    display: flex;
    gap: 10px;
    border: 1px solid var(--straw);
    border-left: 4px solid var(--straw-ink);
    border-radius: 7px;
    background: var(--straw-wash);
    padding: 9px 12px;
    font-size: 13.5px;
  }
</style>
