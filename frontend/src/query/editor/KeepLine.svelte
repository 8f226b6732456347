<script lang="ts">
  import type { Brief, Column } from '../../api/client';
  import { bytes } from '../../domain/words/format';
  import type { QueryStore } from '../queryStore.svelte';
  import { scheduleWords } from '../../domain/words/labels';
  import Popover from '../../ui/Popover.svelte';
  import { keepTyped } from '../../ui/typed.svelte';
  import EditorRow from './EditorRow.svelte';
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
  const weekdays = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC';
  const spans = { PT10M: '10 minutes', PT30M: '30 minutes', PT1H: 'hour', PT6H: '6 hours', P1D: 'day' };

  let kind = $state<'hand' | 'every' | 'at'>('hand');
  let every = $state('PT1H');
  let at = $state('07:30');
  let days = $state<number[]>([1, 2, 3, 4, 5]);
  let inZone = $state(zone);
  let paused = $state(false);
  let catchesUp = $state(true);
  let match = $state<string[]>([]);
  /** Whether it has the match columns of what it starts from. */
  const takesOver = $derived(
    !!brief.start?.tables.every((one) => one.query) &&
      (brief.start.tables.length === 1 || !!brief.start.whose),
  );

  function begin(): void {
    const schedule = brief.keep.schedule;
    kind = schedule ? schedule.kind : 'hand';
    if (schedule?.kind === 'every') every = schedule.every;
    if (schedule?.kind === 'at') {
      at = schedule.at;
      days = [...schedule.days];
      inZone = schedule.zone;
    }
    paused = brief.keep.paused;
    catchesUp = schedule?.missed !== 'skip';
  }

  const keep = $derived(`keep of query ${work.id}`);
  keepTyped(
    () => keep,
    () => ({ kind, every, at, days, inZone, paused, catchesUp, match }),
    (held) => ({ kind, every, at, days, inZone, paused, catchesUp, match } = held),
  );

  function done(close: () => void): void {
    const missed = catchesUp ? 'catch up' : 'skip';
    const schedule =
      kind === 'hand'
        ? null
        : kind === 'every'
          ? ({ kind, every, missed } as const)
          : ({ kind, at, days: [...days].sort(), zone: inZone, missed } as const);
    onchange({ ...brief, keep: { ...brief.keep, schedule, paused } });
    close();
  }
</script>

<EditorRow verb={brief.start ? 'Refresh' : 'Keep'} {note}>
  {brief.start ? 'what it starts from' : 'a snapshot'}
  <Popover label="When it is refreshed" onopen={begin} {keep}>
    {#snippet trigger()}{scheduleWords(brief.keep)}{/snippet}
    {#snippet children(close)}
      <div class="space-y-2.5">
        <label class="flex items-center gap-2"
          ><input type="radio" value="hand" bind:group={kind} /> Only by hand</label
        >
        <label class="flex items-center gap-2">
          <input type="radio" value="every" bind:group={kind} /> Every
          <select class="field" style="width: 150px" bind:value={every} onfocus={() => (kind = 'every')}>
            {#if !(every in spans)}<option value={every}>{every}</option>{/if}
            {#each Object.entries(spans) as [value, words] (value)}<option {value}>{words}</option>{/each}
          </select>
        </label>
        <label class="flex items-center gap-2">
          <input type="radio" value="at" bind:group={kind} /> At
          <input
            class="field"
            style="width: 110px"
            type="time"
            bind:value={at}
            onfocus={() => (kind = 'at')}
          />
          <input
            class="field"
            style="width: 150px"
            list="zones"
            aria-label="Time zone"
            bind:value={inZone}
            onfocus={() => (kind = 'at')}
          />
          <datalist id="zones">
            {#each Intl.supportedValuesOf('timeZone') as one (one)}<option value={one}></option>{/each}
          </datalist>
        </label>
        {#if kind === 'at'}
          <div class="flex gap-2.5 pl-6">
            {#each weekdays as name, index (name)}
              <label class="text-center text-[12.5px]">
                <input type="checkbox" value={index + 1} bind:group={days} /><br />{name}
              </label>
            {/each}
          </div>
        {/if}
        {#if kind !== 'hand'}
          <label class="flex items-center gap-2"
            ><input type="checkbox" bind:checked={catchesUp} /> Catch up once if a time was missed</label
          >
          <label class="flex items-center gap-2"
            ><input type="checkbox" bind:checked={paused} /> Paused for now</label
          >
        {/if}
        <button
          class="press main small"
          disabled={kind === 'at' && (!days.length || !at)}
          onclick={() => done(close)}>Done</button
        >
      </div>
    {/snippet}
  </Popover>{brief.keep.paused && brief.keep.schedule ? ' (paused)' : ''}; {brief.keep.match.length ||
  takesOver
    ? 'rows match by'
    : ''}
  <Popover label="Match columns" onopen={() => (match = [...brief.keep.match])} keep="{keep}, match">
    {#snippet trigger()}{brief.keep.match.join(' and ') ||
        (takesOver ? 'what its tables match by' : 'no match columns chosen yet')}{/snippet}
    {#snippet children(close)}
      <div class="space-y-2">
        <p class="muted text-[13px]">
          The columns that say which row is which. In a comparison a row with the same values here is the same
          row.
        </p>
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
  </Popover>{#if !brief.start}; the answers of
    <SavedAnswers {work} {brief} {onchange} /> stay saved{saved ? `, ${bytes(saved)} now` : ''}{/if}.
</EditorRow>
