<!-- The versions of a file that a feed replaced, and putting one back. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, problemOf, type FeedInfo, type Problem, type Schemas } from '../api/client';
  import { bytes, when } from '../domain/words/format';
  import Dialog from '../ui/Dialog.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';

  interface Props {
    feed: FeedInfo;
    onclose: () => void;
    onback: () => void;
  }
  let { feed, onclose, onback }: Props = $props();
  let versions = $state.raw<Schemas['VersionInfo'][] | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let back = $state('');
  const at = $derived({ params: { path: { query_id: feed.query_id, key: feed.key } } });

  onMount(() => {
    ask(api.GET('/api/queries/{query_id}/feeds/{key}/versions', at)).then(
      (found) => (versions = found),
      (error: unknown) => (problem = problemOf(error)),
    );
  });

  async function putBack(name: string): Promise<void> {
    try {
      versions = await ask(
        api.POST('/api/queries/{query_id}/feeds/{key}/versions', { ...at, body: { name } }),
      );
      back = name;
      problem = null;
      onback();
    } catch (error) {
      problem = problemOf(error);
    }
  }
</script>

<Dialog title="Versions of {feed.place}" open {onclose} width={640}>
  {#if problem}<div class="mb-3"><ProblemNote {problem} /></div>{/if}
  <p class="muted mb-3 text-[13px]">
    Before a feed replaces a file, what was there is kept. A version that is put back takes the place of the
    file; what is there now becomes a version.
  </p>
  {#if back}<p class="seen mb-3">It is back: {back}.</p>{/if}
  <ul class="space-y-1.5">
    {#each versions ?? [] as version (version.name)}
      <li class="flex items-center gap-3">
        <span class="min-w-0 flex-1 wrap-anywhere"
          >{version.name}
          <span class="muted">{bytes(version.size)}, replaced {when(version.kept)}</span></span
        >
        <button class="press small" onclick={() => putBack(version.name)}>Put back</button>
      </li>
    {/each}
  </ul>
</Dialog>
