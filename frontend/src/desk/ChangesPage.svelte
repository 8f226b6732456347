<!-- What changed in all queries, day by day. -->
<script lang="ts">
  import { api, ask, problemOf, type ChangeLine, type Problem } from '../api/client';
  import { clockText, count, counted, day } from '../domain/words/format';
  import { STATE_SIGNS } from '../domain/words/proof';
  import { sinceWords } from '../domain/words/runs';
  import ProblemNote from '../ui/ProblemNote.svelte';

  let days = $state(7);
  let only = $state<'changed' | 'unseen' | 'all'>('changed');
  let found = $state.raw<ChangeLine[] | null>(null);
  let problem = $state.raw<Problem | null>(null);
  document.title = 'What changed · Tin Bucket';

  $effect(() => {
    const query = { days };
    ask(api.GET('/api/changes', { params: { query } })).then(
      (told) => {
        if (query.days === days) found = told;
      },
      (error: unknown) => (problem = problemOf(error)),
    );
  });

  const differs = (one: ChangeLine): boolean =>
    !!(one.since.new || one.since.gone || one.since.changed || sinceWords(one.since));
  const shown = $derived(
    (found ?? []).filter((one) => only === 'all' || (differs(one) && (only === 'changed' || !one.seen))),
  );
  const byDay = $derived.by(() => {
    const out: { name: string; lines: ChangeLine[] }[] = [];
    for (const one of shown) {
      const name = day(one.taken);
      if (out.at(-1)?.name !== name) out.push({ name, lines: [] });
      out.at(-1)?.lines.push(one);
    }
    return out;
  });
</script>

<div class="h-full overflow-auto px-5 py-4">
  <div class="mb-3 flex flex-wrap items-center gap-4">
    <h1 class="text-[19px] font-bold">What changed</h1>
    <label class="text-[13.5px]"
      ><span class="muted">in the last</span>
      <select class="field" style="width: auto" name="days" bind:value={days}>
        {#each [1, 7, 30, 90, 365] as many (many)}<option value={many}>{counted(many, 'day')}</option>{/each}
      </select></label
    >
    <label class="text-[13.5px]"
      ><span class="muted">show</span>
      <select class="field" style="width: auto" name="only" bind:value={only}>
        <option value="changed">what differs</option>
        <option value="unseen">what differs since I looked</option>
        <option value="all">every snapshot</option>
      </select></label
    >
    <span class="muted text-[13px]" role="status">{found ? counted(shown.length, 'snapshot') : ''}</span>
  </div>
  {#if problem}<ProblemNote {problem} />{/if}
  {#if found && !shown.length}
    <p class="muted">
      Nothing changed in these days{only === 'unseen' ? ' that you have not looked at' : ''}.
    </p>
  {/if}
  {#each byDay as { name, lines } (name)}
    <section class="mb-4">
      <h2 class="mb-1 text-[13.5px] font-bold">{name}</h2>
      <table class="listing" style="width: 100%; max-width: 980px">
        <tbody>
          {#each lines as one (one.snapshot)}
            <tr>
              <td style="width: 70px" class="muted">{clockText(one.taken)}</td>
              <td>
                <a
                  class="plain"
                  href="#/query/{one.query_id}/compare?now={encodeURIComponent(`#${one.snapshot}`)}"
                  >{one.query_name}</a
                >
                {#if !one.seen}<span class="unseen">not looked at</span>{/if}
              </td>
              <td class="right">{count(one.rows)} rows</td>
              <td style="width: 260px">
                {#if sinceWords(one.since)}<span class="muted">{sinceWords(one.since)}</span>
                {:else if 'new' in one.since}
                  + {count(one.since.new ?? 0)} − {count(one.since.gone ?? 0)}
                  <span class:changed={one.since.changed}>● {count(one.since.changed ?? 0)}</span>
                {:else}<span class="muted">the first snapshot</span>{/if}
              </td>
              <td class="muted">{one.state === 'complete' ? '' : `${STATE_SIGNS[one.state]} ${one.state}`}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    </section>
  {/each}
</div>

<style>
  .unseen {
    margin-left: 6px;
    padding: 0 6px;
    border-radius: 8px;
    background: var(--damson-wash);
    color: var(--damson);
    font-size: 12px;
  }
  .changed {
    padding: 0 5px;
    border-radius: 4px;
    background: var(--straw-wash);
  }
</style>
