<!-- What needs attention: keys, incomplete tables, failed runs, used-up allowances. -->
<script lang="ts">
  import type { Desk } from '../api/client';

  interface Props {
    notes: Desk['attention'];
  }
  let { notes }: Props = $props();
</script>

<div class="mt-3 grid grid-cols-2 gap-2.5">
  {#each notes as note (note.kind + note.title)}
    <div class="seen">
      <strong>{note.title}</strong>
      {['key', 'vault', 'waiting', 'allowance'].includes(note.kind)
        ? ''
        : `· ${note.kind === 'incomplete' ? 'rows may be missing' : note.kind}.`}
      {note.what}
      {#if note.query_id}
        <a class="plain" href="#/query/{note.query_id}">Open the query</a>
      {:else}
        <a class="plain" href="#/services"
          >{note.kind === 'vault'
            ? 'Open it'
            : note.kind === 'allowance'
              ? 'See its limits'
              : 'Enter the key'}</a
        >
      {/if}
    </div>
  {/each}
</div>
