<!-- When something is due: by an interval, on weekdays, or once a month. It says when that is next. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { sameJson } from '../api/json';
  import { api, ask, problemOf, type Brief, type Schemas } from '../api/client';
  import { when } from '../domain/words/format';

  type Schedule = NonNullable<Brief['keep']['schedule']>;
  interface Props {
    schedule: Schedule | null;
    /** Whether “only by hand” is offered. */
    byHand?: boolean;
    onchange: (schedule: Schedule | null) => void;
    /** What is wrong with it, in words; empty where nothing is. */
    onwrong?: (words: string) => void;
  }
  let { schedule, byHand = false, onchange, onwrong }: Props = $props();
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
  let catchesUp = $state(true);

  function begin(from: Schedule | null): void {
    kind = from ? from.kind : byHand ? 'hand' : 'at';
    if (from?.kind === 'every') {
      every = from.every;
      within = !!from.between;
      if (from.between) ({ start, end, zone: inZone } = from.between);
      if (from.between) days = [...from.between.days];
    }
    if (from?.kind === 'at') {
      times = [from.at, ...(from.also ?? [])].sort().join(', ');
      days = [...from.days];
      inZone = from.zone;
    }
    if (from?.kind === 'monthly') {
      times = from.at;
      on = String(from.on);
      inZone = from.zone;
    }
    catchesUp = from?.missed !== 'skip';
  }
  untrack(() => begin(schedule));

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
  const written = $derived.by((): Schedule | null => {
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
  function look(one: Schedule): void {
    const mine = ++turn;
    ask(api.POST('/api/schedule/words', { body: { schedule: one as never } })).then(
      (found) => {
        if (mine !== turn) return;
        due = found;
        wrong = '';
        onwrong?.('');
      },
      (error: unknown) => {
        if (mine !== turn) return;
        due = null;
        wrong = problemOf(error).what;
        onwrong?.(wrong);
      },
    );
  }
  $effect(() => {
    const one = written;
    untrack(() => {
      if (!sameJson(one, schedule)) onchange(one);
      if (one) look(one);
      else {
        due = null;
        onwrong?.('');
      }
    });
  });
</script>

<div class="space-y-2.5">
  {#if byHand}<label class="flex items-center gap-2"
      ><input type="radio" value="hand" bind:group={kind} /> Only by hand</label
    >{/if}
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
      <input class="field" style="width: 150px" list="zones" aria-label="Time zone" bind:value={inZone} />
      <datalist id="zones">
        {#each Intl.supportedValuesOf('timeZone') as one (one)}<option value={one}></option>{/each}
      </datalist>
    </label>
  {/if}
  {#if kind !== 'hand'}
    <label class="flex items-center gap-2"
      ><input type="checkbox" bind:checked={catchesUp} /> Catch up once if a time was missed</label
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
</div>
