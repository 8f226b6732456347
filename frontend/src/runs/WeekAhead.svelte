<!-- What is due in the next seven days, with its calls against the limits, and pausing all of it. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, problemOf, type Problem, type Schemas } from '../api/client';
  import { count, counted, when } from '../domain/words/format';
  import ProblemNote from '../ui/ProblemNote.svelte';

  type Planned = Schemas['PlannedInfo'];
  let week = $state.raw<Schemas['WeekInfo'] | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let open = $state(false);
  let until = $state('');
  const days = $derived([...new Set((week?.planned ?? []).map((one) => one.day))]);
  const times = $derived((week?.planned ?? []).reduce((sum, one) => sum + one.times, 0));
  const calls = $derived((week?.planned ?? []).reduce((sum, one) => sum + (one.calls ?? 0), 0));
  const tight = $derived((week?.loads ?? []).filter((load) => load.planned > load.allowed));
  const weekday = new Intl.DateTimeFormat(undefined, { weekday: 'long', day: 'numeric', month: 'long' });
  const hour = new Intl.DateTimeFormat(undefined, { hour: '2-digit', minute: '2-digit', hour12: false });

  const take = (found: Schemas['WeekInfo']): void => {
    week = found;
    problem = null;
  };
  const fail = (error: unknown): void => {
    problem = problemOf(error);
  };
  onMount(() => {
    ask(api.GET('/api/schedule')).then(take, fail);
  });

  const pause = (paused: boolean): Promise<void> =>
    ask(api.PUT('/api/schedule', { body: { paused, until: paused && until ? until : null } })).then(
      take,
      fail,
    );

  function at(one: Planned): string {
    const first = hour.format(new Date(one.first));
    return one.times === 1 ? first : `${first} to ${hour.format(new Date(one.last))}, ${one.times} times`;
  }
</script>

{#if problem}<div class="mt-3"><ProblemNote {problem} /></div>{/if}
{#if week && (week.planned.length || week.paused)}
  <section class="mt-3" aria-label="The next seven days">
    <p class="flex flex-wrap items-center gap-3">
      <button class="plain" aria-expanded={open} onclick={() => (open = !open)}>
        {open ? 'Hide the next seven days' : 'The next seven days'}
      </button>
      <span class="muted text-[13px]"
        >{counted(times, 'refresh', 'refreshes')}, about {counted(calls, 'call')}{tight.length
          ? `; ${tight.map((load) => `${load.service} would need more than ${load.limit}`).join(', ')}`
          : ''}</span
      >
      <span class="ml-auto flex items-center gap-2 text-[13px]">
        {#if week.paused}
          <strong>All schedules are paused{week.paused_until ? ` until ${week.paused_until}` : ''}.</strong>
          <button class="press small" onclick={() => pause(false)}>Resume all</button>
        {:else}
          <button class="press small" onclick={() => pause(true)}>Pause all schedules</button>
          <label class="muted flex items-center gap-2"
            >until <input
              class="field"
              style="width: 140px"
              type="date"
              aria-label="Pause until"
              bind:value={until}
            /></label
          >
        {/if}
      </span>
    </p>
    {#if open}
      <div class="mt-2 grid gap-4" style="grid-template-columns: repeat(auto-fill, minmax(300px, 1fr))">
        {#each days as day (day)}
          <div>
            <h3 class="text-[13px] font-semibold">{weekday.format(new Date(`${day}T12:00`))}</h3>
            <ul class="text-[13px]">
              {#each week.planned.filter((one) => one.day === day) as one (one.query_id)}
                <li class="flex gap-2">
                  <span class="when">{at(one)}</span>
                  <a class="min-w-0 flex-1 truncate" href="#/query/{one.query_id}">{one.query_name}</a>
                  <span class="muted">{one.calls === null ? '' : counted(one.calls ?? 0, 'call')}</span>
                </li>
              {/each}
            </ul>
          </div>
        {/each}
      </div>
      {#if week.loads.length}
        <ul class="mt-2 text-[13px]">
          {#each week.loads as load (`${load.service} ${load.limit}`)}
            <li class:tight={load.planned > load.allowed}>
              {load.service}: {count(load.planned)} of {load.limit} planned at most, from {when(load.begins)}
            </li>
          {/each}
        </ul>
      {/if}
    {/if}
  </section>
{/if}

<style>
  .when {
    min-width: 46px;
    font-variant-numeric: tabular-nums;
  }
  .tight {
    background: var(--straw-wash);
  }
</style>
