<script lang="ts">
  import { push } from 'svelte-spa-router';
  import { api, ask, type Brief, type Column, type MatchProposal } from '../../api/client';
  import { alikeWords } from '../../domain/words/alike';
  import { bytes } from '../../domain/words/format';
  import type { QueryStore } from '../queryStore.svelte';
  import { scheduleWords } from '../../domain/words/labels';
  import ScheduleForm from '../../parts/ScheduleForm.svelte';
  import Popover from '../../ui/Popover.svelte';
  import { keepTyped } from '../../ui/typed.svelte';
  import EditorRow from './EditorRow.svelte';
  import KeptSnapshots from './KeptSnapshots.svelte';
  import SavedAnswers from './SavedAnswers.svelte';

  interface Props {
    work: QueryStore;
    brief: Brief;
    /** Bytes of saved answers. */
    saved: number;
    columns: Column[];
    note: string;
    onchange: (brief: Brief) => void;
  }
  let { work, brief, saved, columns, note, onchange }: Props = $props();
  let schedule = $state.raw<Brief['keep']['schedule']>(null);
  let wrong = $state('');
  let paused = $state(false);
  let until = $state('');
  let match = $state<string[]>([]);
  /** Columns that tell all rows apart, with the evidence. */
  let proposal = $state.raw<MatchProposal | null>(null);
  /** Whether it has the match columns of what it starts from. */
  const takesOver = $derived(
    !!brief.start?.tables.every((one) => one.query) &&
      (brief.start.tables.length === 1 || !!brief.start.whose),
  );

  /** Whether a value that is asked with counts from the last refresh. */
  const since = $derived(
    [
      ...brief.parameters.map((one) => one.default),
      ...brief.each.flatMap((one) => ('start' in one ? [one.start] : [])),
    ].some(
      (one) => typeof one === 'object' && one !== null && 'anchor' in one && one.anchor === 'last refresh',
    ),
  );
  async function collect(): Promise<void> {
    const made = await work.startFrom('all seen');
    if (made !== null) await push(`/query/${made}`);
  }

  function begin(): void {
    schedule = brief.keep.schedule ?? null;
    paused = brief.keep.paused;
    until = brief.keep.paused_until ?? '';
  }

  const keep = $derived(`keep of query ${work.id}`);
  keepTyped(
    () => keep,
    () => ({ schedule, paused, until, match }),
    (held) => ({ schedule, paused, until, match } = held),
  );

  /** What tells the rows apart is looked for in the table at hand. */
  async function beginMatch(): Promise<void> {
    match = [...brief.keep.match];
    const { snapshot, preview } = work.baseTable;
    if (match.length || proposal || (snapshot === null && preview === null)) return;
    const body = { ...work.baseTable, query_id: work.id };
    proposal = await ask(api.POST('/api/table/match-proposal', { body })).catch(() => null);
  }

  function done(close: () => void): void {
    const paused_until = paused && until ? until : null;
    onchange({ ...brief, keep: { ...brief.keep, schedule, paused: paused && !!schedule, paused_until } });
    close();
  }
</script>

<EditorRow verb={brief.start ? 'Refresh' : 'Keep'} {note}>
  {brief.start ? 'what it starts from' : 'a snapshot'}
  <Popover label="When it is refreshed" onopen={begin} {keep}>
    {#snippet trigger()}{scheduleWords(brief.keep)}{/snippet}
    {#snippet children(close)}
      <div class="space-y-2.5">
        <ScheduleForm
          schedule={schedule ?? null}
          byHand
          onchange={(one) => (schedule = one)}
          onwrong={(words) => (wrong = words)}
        />
        {#if schedule}
          <label class="flex items-center gap-2"
            ><input type="checkbox" bind:checked={paused} /> Paused
            {#if paused}until <input
                class="field"
                style="width: 150px"
                type="date"
                aria-label="Paused until"
                bind:value={until}
              />{/if}</label
          >
        {/if}
        <button class="press main small" disabled={!!schedule && !!wrong} onclick={() => done(close)}
          >Done</button
        >
      </div>
    {/snippet}
  </Popover>{brief.keep.paused && brief.keep.schedule
    ? ` (paused${brief.keep.paused_until ? ` until ${brief.keep.paused_until}` : ''})`
    : ''}; {brief.keep.match.length || takesOver ? 'rows match by' : ''}
  <Popover label="Match columns" onopen={beginMatch} keep="{keep}, match">
    {#snippet trigger()}{brief.keep.match.join(' and ') ||
        (takesOver ? 'what its tables match by' : 'no match columns chosen yet')}{/snippet}
    {#snippet children(close)}
      <div class="space-y-2">
        <p class="muted text-[13px]">
          The columns that say which row is which. In a comparison a row with the same values here is the same
          row.
        </p>
        {#if proposal && !match.length}
          {@const found = proposal}
          <p class="seen text-[13px]" role="status">
            {found.evidence}
            <button class="press small" onclick={() => (match = [...found.columns])}
              >Take {found.columns.join(' and ')}</button
            >
          </p>
        {/if}
        <div class="max-h-60 overflow-auto">
          {#each columns as column (column.name)}
            <label class="flex items-center gap-2 py-0.5">
              <input type="checkbox" value={column.name} bind:group={match} />
              {column.name}
            </label>
          {/each}
        </div>
        <button
          class="press main small"
          onclick={() => {
            onchange({ ...brief, keep: { ...brief.keep, match: [...match] } });
            close();
          }}>Done</button
        >
      </div>
    {/snippet}
  </Popover>{#if brief.keep.alike.length}, and
    <a class="plain" href="#/query/{work.id}/compare" title="Change it where dates are compared"
      >{brief.keep.alike.map(alikeWords).join(', ')}</a
    >
    counts as the same{/if}{#if !brief.start}; <KeptSnapshots {work} {brief} {onchange} />; the answers of
    <SavedAnswers {work} {brief} {onchange} /> stay saved{saved ? `, ${bytes(saved)} now` : ''}{/if}.
  {#if since}
    Each refresh asks only for what came since the last whole one:
    <button class="plain" onclick={collect}>collect every row in one query</button>.
  {/if}
</EditorRow>
