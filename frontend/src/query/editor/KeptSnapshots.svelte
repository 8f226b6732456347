<!-- How long snapshots stay, and what a rule would let go now. -->
<script lang="ts">
  import { api, ask, problemOf, type Brief, type Going, type Problem } from '../../api/client';
  import { bytes, count, counted } from '../../domain/words/format';
  import { retentionWords, type KeepRule } from '../../domain/words/retention';
  import type { QueryStore } from '../queryStore.svelte';
  import ProblemNote from '../../ui/ProblemNote.svelte';
  import Popover from '../../ui/Popover.svelte';

  interface Props {
    work: QueryStore;
    brief: Brief;
    onchange: (brief: Brief) => void;
  }
  let { work, brief, onchange }: Props = $props();
  let all = $state(true);
  let days = $state<number | null>(30);
  let weeks = $state<number | null>(26);
  let monthly = $state(true);
  let months = $state<number | null>(null);
  let going = $state.raw<Going | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let asked = 0;

  const rule = $derived<KeepRule | null>(
    all ? null : { days: days || 1, weeks: weeks || 0, months: monthly ? months || null : 0 },
  );

  function begin(): void {
    const now = brief.keep.snapshots;
    all = !now;
    days = now?.days ?? 30;
    weeks = now ? now.weeks || null : 26;
    monthly = now ? now.months !== 0 : true;
    months = now?.months || null;
    void look();
  }

  /** What it would let go now; the answer to an older question is dropped. */
  async function look(): Promise<void> {
    const own = ++asked;
    going = null;
    problem = null;
    if (!rule) return;
    try {
      const params = { path: { query_id: work.id } };
      const found = await ask(
        api.POST('/api/queries/{query_id}/snapshots/by-rule', { params, body: $state.snapshot(rule) }),
      );
      if (own === asked) going = found;
    } catch (error) {
      if (own === asked) problem = problemOf(error);
    }
  }
</script>

<Popover label="How long snapshots stay" width={470} onopen={begin} keep="keep of query {work.id}, snapshots">
  {#snippet trigger()}{retentionWords(brief.keep.snapshots)}{/snippet}
  {#snippet children(close)}
    <form
      class="space-y-2 text-[13.5px]"
      onchange={look}
      onsubmit={(event) => {
        event.preventDefault();
        onchange({ ...brief, keep: { ...brief.keep, snapshots: $state.snapshot(rule) } });
        close();
      }}
    >
      <label class="flex items-center gap-2"
        ><input type="radio" name="stay" checked={all} onchange={() => (all = true)} /> Every snapshot stays</label
      >
      <label class="flex items-center gap-2"
        ><input type="radio" name="stay" checked={!all} onchange={() => (all = false)} /> They are thinned out with
        age</label
      >
      {#if !all}
        <div class="ml-6 space-y-1.5">
          <label class="flex items-center gap-2"
            >all of the last <input
              class="field"
              style="width: 74px"
              type="number"
              min="1"
              max="100000"
              name="stay-days"
              bind:value={days}
              required
            /> days,</label
          >
          <label class="flex items-center gap-2"
            >then the last of each week for <input
              class="field"
              style="width: 74px"
              type="number"
              min="0"
              max="20000"
              placeholder="none"
              name="stay-weeks"
              bind:value={weeks}
            /> weeks,</label
          >
          <label class="flex items-center gap-2"
            ><input type="checkbox" name="stay-monthly" bind:checked={monthly} /> then the last of each month{#if monthly}&nbsp;for
              <input
                class="field"
                style="width: 74px"
                type="number"
                min="1"
                max="5000"
                placeholder="ever"
                aria-label="Months"
                bind:value={months}
              /> months{/if}</label
          >
        </div>
        <p class="muted text-[13px]">One with a name or a pin stays, and so does the newest.</p>
      {/if}
      {#if problem}<ProblemNote {problem} />{/if}
      {#if going}
        <p role="status">
          {#if going.ids.length}
            Now <strong>{count(going.ids.length)} of {counted(work.detail?.dates ?? 0, 'snapshot')}</strong>
            would go, with {counted(going.rows, 'row')} that no other one has ({bytes(going.size)}). They go
            after the next refresh, once the brief is saved.
          {:else}
            Now none would go.
          {/if}
        </p>
      {/if}
      <button class="press main small" disabled={!!problem}>Done</button>
    </form>
  {/snippet}
</Popover>
