<!-- What wants attention: keys, incomplete tables, failed runs, used-up allowances. -->
<script lang="ts">
  import type { Desk } from '../api/client';

  interface Props {
    notes: Desk['attention'];
  }
  let { notes }: Props = $props();
</script>

<div class="mt-3 grid grid-cols-2 gap-2.5">
  {#each notes as wants (wants.kind + wants.title)}
    <div class="seen">
      <strong>{wants.title}</strong>
      {['key', 'vault', 'waiting', 'allowance'].includes(wants.kind)
        ? ''
        : `· ${wants.kind === 'incomplete' ? 'rows may be missing' : wants.kind}.`}
      {wants.what}
      {#if wants.query_id}
        <a class="plain" href="#/query/{wants.query_id}">Open the query</a>
      {:else}
        <a class="plain" href="#/services"
          >{wants.kind === 'vault'
            ? 'Open it'
            : wants.kind === 'allowance'
              ? 'See its limits'
              : 'Enter the key'}</a
        >
      {/if}
    </div>
  {/each}
</div>
