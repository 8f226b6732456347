<!-- What needs attention: keys, incomplete tables, failed runs, used-up allowances. -->
<script lang="ts">
  import type { Desk } from '../api/client';
  import { count } from '../domain/words/format';

  interface Props {
    notes: Desk['attention'];
  }
  let { notes }: Props = $props();

  const FIRST = 6;
  let all = $state(false);
  // One more is no reason to hide it.
  const shown = $derived(all || notes.length <= FIRST + 1 ? notes : notes.slice(0, FIRST));
</script>

<div class="mt-3 grid grid-cols-2 gap-2.5">
  {#each shown as note, at (at)}
    <div class="seen">
      <strong>{note.title}</strong>
      {['key', 'vault', 'waiting', 'allowance'].includes(note.kind)
        ? ''
        : `· ${note.kind === 'incomplete' ? 'rows may be missing' : note.kind}.`}
      {note.what}
      {#if note.query_id}
        <a class="plain" href="#/query/{note.query_id}">Open the query</a>
      {:else if note.kind === 'notice'}
        <a class="plain" href="#/notices">Look at the notices</a>
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
{#if shown.length < notes.length}
  <button class="plain mt-2" onclick={() => (all = true)}
    >{count(notes.length - shown.length)} more need attention</button
  >
{/if}
