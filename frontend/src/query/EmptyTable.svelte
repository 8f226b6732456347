<!-- What stands where a table would be, and what to do about it. -->
<script lang="ts">
  interface Props {
    running: boolean;
    /** Whether there is a snapshot, which then has no rows. */
    kept: boolean;
  }
  let { running, kept }: Props = $props();
</script>

<div class="p-10 text-center">
  {#if running}
    <p class="text-lg font-semibold">In progress</p>
    <p class="muted mt-1">The table appears when all pages have been read.</p>
  {:else if kept}
    <p class="text-lg font-semibold">The table is empty</p>
    <p class="muted mt-1">The service answered, and its list has no rows for these parameters.</p>
  {:else}
    <p class="text-lg font-semibold">No table yet</p>
    <p class="muted mx-auto mt-1 max-w-md">
      <strong>Ask once</strong> makes one call, so that you can look at the answer and say where the rows are.
      <strong>Refresh</strong> fetches everything and keeps a snapshot.
    </p>
  {/if}
</div>
