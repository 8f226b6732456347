<!-- Runs a feed by hand. -->
<script lang="ts">
  import { api, ask, problemOf, type FeedInfo, type Problem } from '../api/client';

  interface Props {
    feed: FeedInfo;
    /** What it says. */
    words?: string;
    onran: () => void;
    onproblem: (problem: Problem) => void;
  }
  let { feed, words = 'Hand over now', onran, onproblem }: Props = $props();
  let running = $state(false);

  async function run(): Promise<void> {
    running = true;
    try {
      await ask(
        api.POST('/api/queries/{query_id}/feeds/{key}/run', {
          params: { path: { query_id: feed.query_id, key: feed.key } },
        }),
      );
      onran();
    } catch (error) {
      onproblem(problemOf(error));
    } finally {
      running = false;
    }
  }
</script>

<button class="plain" disabled={running} onclick={run}>{running ? 'Handing over…' : words}</button>
