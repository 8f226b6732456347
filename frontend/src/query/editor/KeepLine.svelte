<script lang="ts">
  import { api, ask, problemOf, type Brief, type Column, type Schemas } from '../../api/client';
  import { bytes, when } from '../../domain/words/format';
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

  type Kind = 'hand' | 'every' | 'at' | 'monthly';
  let kind = $state<Kind>('hand');
  let every = $state('PT1H');
  let within = $state(false);
  let start = $state('08:00');
  let end = $state('18:00');
  let times = $state('07:30');
  let on = $state('1');
  let days = $state<number[]>([1, 2, 3, 4, 5]);
  let inZone = $state(zone);
  let paused = $state(false);
  let until = $state('');
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
    if (schedule?.kind === 'every') {
      every = schedule.every;
      within = !!schedule.between;
      if (schedule.between) ({ start, end, zone: inZone } = schedule.between);
      if (schedule.between) days = [...schedule.between.days];
    }
    if (schedule?.kind === 'at') {
      times = [schedule.at, ...(schedule.also ?? [])].sort().join(', ');
      days = [...schedule.days];
      inZone = schedule.zone;
    }
    if (schedule?.kind === 'monthly') {
      times = schedule.at;
      on = String(schedule.on);
      inZone = schedule.zone;
    }
    paused = brief.keep.paused;
    until = brief.keep.paused_until ?? '';
    catchesUp = schedule?.missed !== 'skip';
  }

  const keep = $derived(`keep of query ${work.id}`);
  keepTyped(
    () => keep,
    () => ({ kind, every, within, start, end, times, on, days, inZone, paused, until, catchesUp, match }),
    (held) =>
      ({ kind, every, within, start, end, times, on, days, inZone, paused, until, catchesUp, match } = held),
  );

  /** The times of a day, as they are typed: 7:30, 12 or 18.05. */
  const clock = $derived(
    times
      .split(/[,;\s]+/)
      .filter(Boolean)
      .map((one) => {
        const found = /^(\d{1,2})(?:[:.](\d{2}))?$/.exec(one);
        return found ? `${found[1]?.padStart(2, '0')}:${found[2] ?? '00'}` : one;
      }),
  );
  const schedule = $derived.by((): Brief['keep']['schedule'] => {
    const missed = catchesUp ? ('catch up' as const) : ('skip' as const);
    const weekly = [...days].sort();
    const [at = '', ...also] = [...new Set(clock)].sort();
    if (kind === 'every') {
      const between = within ? { start, end, days: weekly, zone: inZone } : null;
      return { kind, every, between, missed };
    }
    if (kind === 'at') return { kind, at, also, days: weekly, zone: inZone, missed };
    if (kind === 'monthly') {
      const day = /^\d+$/.test(on) ? Number(on) : (on as 'last');
      return { kind, at, on: day, zone: inZone, missed };
    }
    return null;
  });

  // When it would be due, and what the clock does to it.
  let due = $state.raw<Schemas['ScheduleWords'] | null>(null);
  let wrong = $state('');
  let turn = 0;
  function look(written: NonNullable<Brief['keep']['schedule']>): void {
    const mine = ++turn;
    ask(api.POST('/api/schedule/words', { body: { schedule: written as never } })).then(
      (found) => {
        if (mine !== turn) return;
        due = found;
        wrong = '';
      },
      (error: unknown) => {
        if (mine !== turn) return;
        due = null;
        wrong = problemOf(error).what;
      },
    );
  }
  $effect(() => {
    if (schedule) look(schedule);
    else due = null;
  });

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
        {#if kind === 'every'}
          <label class="flex flex-wrap items-center gap-2 pl-6">
            <input type="checkbox" bind:checked={within} /> only from
            <input class="field" style="width: 104px" type="time" aria-label="From" bind:value={start} />
            to <input class="field" style="width: 104px" type="time" aria-label="To" bind:value={end} />
          </label>
        {/if}
        <label class="flex items-center gap-2">
          <input type="radio" value="at" bind:group={kind} /> On weekdays
        </label>
        <label class="flex items-center gap-2">
          <input type="radio" value="monthly" bind:group={kind} /> Once a month on
          <select
            class="field"
            style="width: 170px"
            aria-label="Day of the month"
            bind:value={on}
            onfocus={() => (kind = 'monthly')}
          >
            <option value="first working">the first working day</option>
            <option value="last working">the last working day</option>
            <option value="last">the last day</option>
            {#each { length: 31 } as _, at (at)}<option value={String(at + 1)}>day {at + 1}</option>{/each}
          </select>
        </label>
        {#if kind === 'at' || (kind === 'every' && within)}
          <div class="flex gap-2.5 pl-6">
            {#each weekdays as name, index (name)}
              <label class="text-center text-[12.5px]">
                <input type="checkbox" value={index + 1} bind:group={days} /><br />{name}
              </label>
            {/each}
          </div>
        {/if}
        {#if kind === 'at' || kind === 'monthly'}
          <label class="flex items-center gap-2 pl-6">
            at <input
              class="field mono"
              name="times"
              style="width: 150px"
              placeholder="07:30, 13:00"
              bind:value={times}
            />
          </label>
        {/if}
        {#if kind === 'at' || kind === 'monthly' || (kind === 'every' && within)}
          <label class="flex items-center gap-2 pl-6">
            in the time zone
            <input
              class="field"
              style="width: 150px"
              list="zones"
              aria-label="Time zone"
              bind:value={inZone}
            />
            <datalist id="zones">
              {#each Intl.supportedValuesOf('timeZone') as one (one)}<option value={one}></option>{/each}
            </datalist>
          </label>
        {/if}
        {#if kind !== 'hand'}
          <label class="flex items-center gap-2"
            ><input type="checkbox" bind:checked={catchesUp} /> Catch up once if a time was missed</label
          >
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
          {#if wrong}<p class="text-[13px]" style="color: var(--straw-ink)" role="alert">{wrong}</p>{/if}
          {#if due}
            <p class="muted text-[13px]">
              Due {due.next
                .slice(0, 3)
                .map((one) => when(one))
                .join(', ')}.
            </p>
            {#each due.clock_changes as line (line)}<p class="muted text-[13px]">{line}</p>{/each}
          {/if}
        {/if}
        <button
          class="press main small"
          disabled={(kind === 'at' && !days.length) || (kind !== 'hand' && !!wrong)}
          onclick={() => done(close)}>Done</button
        >
      </div>
    {/snippet}
  </Popover>{brief.keep.paused && brief.keep.schedule
    ? ` (paused${brief.keep.paused_until ? ` until ${brief.keep.paused_until}` : ''})`
    : ''}; {brief.keep.match.length || takesOver ? 'rows match by' : ''}
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
