<!-- A notice: why somebody is told, by which way, and what goes with it. -->
<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import {
    api,
    ask,
    problemOf,
    type Notice,
    type NoticeInfo,
    type Offers,
    type Problem,
    type Schemas,
  } from '../api/client';
  import { choices, entryOf, switched, type Values } from '../domain/choices';
  import ScheduleForm from '../parts/ScheduleForm.svelte';
  import Dialog from '../ui/Dialog.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';

  interface Props {
    /** The notice that is changed; nothing for a new one. */
    info: NoticeInfo | null;
    onclose: () => void;
    onkept: (made: Schemas['NoticeMade']) => void;
  }
  let { info, onclose, onkept }: Props = $props();

  const CAUSES = choices().causes;
  const own = untrack(() => info?.notice);
  let name = $state(own?.name ?? '');
  let cause = $state.raw<Values>(
    own
      ? ({ ...own.cause } as unknown as Values)
      : { ...structuredClone(entryOf(CAUSES, 'refresh').defaults), query: null },
  );
  let mail = $state(own?.to.flatMap((one) => (one.by === 'mail' ? one.addresses : [])).join(', ') ?? '');
  let hooks = $state(own?.to.flatMap((one) => (one.by === 'hook' ? [one.address] : [])).join('\n') ?? '');
  let sends = $state<'' | 'report' | 'changes'>(own?.sends ?? '');
  let report = $state<number | null>(own?.report ?? null);
  let query = $state<number | null>(own?.query ?? null);
  let quiet = $state(!!own?.quiet);
  let start = $state(own?.quiet?.start ?? '20:00');
  let end = $state(own?.quiet?.end ?? '07:00');
  let off = $state(own?.off ?? false);
  let queries = $state.raw<Schemas['QueryLine'][]>([]);
  let reports = $state.raw<Schemas['ReportLine'][]>([]);
  let offers = $state.raw<Offers | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let wrong = $state('');
  let shown = $state.raw<Schemas['NoticePreview'] | null>(null);

  const entry = $derived(entryOf(CAUSES, String(cause.why)));
  const fields = $derived(entry.fields);
  type Figure = { name: string; query: number };
  const figure = $derived(cause.figure as Figure | '' | undefined);
  let figureQuery = $state<number | null>(
    untrack(() => (cause.figure ? ((cause.figure as Figure).query ?? null) : null)),
  );

  onMount(() => {
    ask(api.GET('/api/desk')).then(
      (desk) => (queries = desk.queries),
      () => undefined,
    );
    ask(api.GET('/api/reports')).then(
      (found) => (reports = found),
      () => undefined,
    );
  });
  $effect(() => {
    const of = figureQuery;
    offers = null;
    if (of === null) return;
    ask(api.POST('/api/reports/offers', { body: { query_id: of, taken: [] } })).then(
      (found) => (offers = found),
      (error: unknown) => (problem = problemOf(error)),
    );
  });

  const set = (field: string, value: unknown): void => {
    cause = { ...cause, [field]: value };
  };
  function choose(key: string): void {
    const next = entryOf(CAUSES, key);
    cause = { ...switched(next, cause), why: key };
    if (key === 'time' && !sends) sends = 'report';
  }
  const numbers = $derived((offers?.figures ?? []).filter((one) => one.figure.tells !== 'date'));

  const addresses = (text: string): string[] =>
    text
      .split(/[,;\s]+/)
      .map((one) => one.trim())
      .filter(Boolean);
  const notice = $derived<Notice>({
    name: name.trim() || entry.label,
    cause: cause as unknown as Notice['cause'],
    to: [
      ...(addresses(mail).length ? [{ by: 'mail' as const, addresses: addresses(mail) }] : []),
      ...addresses(hooks).map((address) => ({ by: 'hook' as const, address })),
    ],
    sends,
    report: sends === 'report' ? (report ?? reports[0]?.id ?? null) : null,
    query: sends === 'changes' ? (query ?? queries[0]?.id ?? null) : null,
    quiet: quiet ? { start, end } : null,
    off,
  });
  const ready = $derived(
    notice.to.length > 0 &&
      !wrong &&
      (cause.why !== 'figure' || !!figure) &&
      (cause.why !== 'rows' || typeof cause.query === 'number'),
  );

  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (!ready) return;
    problem = null;
    try {
      const body = { notice };
      const made = info
        ? await ask(api.PUT('/api/notices/{notice_id}', { params: { path: { notice_id: info.id } }, body }))
        : await ask(api.POST('/api/notices', { body }));
      onkept(made);
    } catch (error) {
      problem = problemOf(error);
    }
  }
  async function look(): Promise<void> {
    problem = null;
    try {
      shown = await ask(api.POST('/api/notices/preview', { body: { notice } }));
    } catch (error) {
      problem = problemOf(error);
    }
  }
</script>

<Dialog title={info ? 'A notice' : 'A new notice'} open {onclose} width={640} holds={!!info}>
  <form class="space-y-3 text-[13.5px]" onsubmit={keep}>
    <label class="block"
      ><span class="label">Why somebody is told</span>
      <select
        class="field"
        name="notice-why"
        data-first
        value={String(cause.why)}
        onchange={(event) => choose(event.currentTarget.value)}
      >
        {#each CAUSES as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
      </select></label
    >
    <div class="flex flex-wrap items-end gap-x-4 gap-y-2">
      {#each fields as field (field.name)}
        {#if field.kind === 'yes'}
          <label class="flex items-center gap-1.5"
            ><input
              type="checkbox"
              name="notice-{field.name}"
              checked={!!cause[field.name]}
              onchange={(event) => set(field.name, event.currentTarget.checked)}
            />
            {field.label}</label
          >
        {:else if field.kind === 'times'}
          <div class="w-full">
            <ScheduleForm
              schedule={cause.schedule as never}
              onchange={(next) => next && set('schedule', next)}
              onwrong={(words) => (wrong = words)}
            />
          </div>
        {:else if field.kind === 'table'}
          <label
            ><span class="label">{field.label}</span>
            <select
              class="field"
              name="notice-query"
              value={String(cause.query ?? '')}
              onchange={(event) =>
                set('query', event.currentTarget.value ? Number(event.currentTarget.value) : null)}
            >
              <option value="">{field.placeholder || 'a query…'}</option>
              {#each queries as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
            </select></label
          >
        {:else if field.kind === 'figures'}
          <label
            ><span class="label">{field.label} is of</span>
            <select
              class="field"
              name="notice-figure-query"
              value={String(figureQuery ?? '')}
              onchange={(event) => (figureQuery = Number(event.currentTarget.value) || null)}
            >
              <option value="">a query…</option>
              {#each queries as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
            </select></label
          >
          <label
            ><span class="label">{field.label}</span>
            <select
              class="field"
              name="notice-figure"
              value={figure ? figure.name : ''}
              onchange={(event) =>
                set(
                  'figure',
                  numbers.find((one) => one.figure.name === event.currentTarget.value)?.figure ?? '',
                )}
            >
              <option value="">{figureQuery === null ? 'first a query' : 'a figure…'}</option>
              {#if figure && !numbers.some((one) => one.figure.name === figure.name)}
                <option value={figure.name}>{figure.name}</option>
              {/if}
              {#each numbers as one (one.figure.name)}
                <option value={one.figure.name}>{one.figure.name} ({one.words})</option>
              {/each}
            </select></label
          >
        {:else if field.options.length}
          <label
            ><span class="label">{field.label}</span>
            <select
              class="field"
              name="notice-{field.name}"
              value={String(cause[field.name] ?? '')}
              onchange={(event) => set(field.name, event.currentTarget.value)}
            >
              {#each field.options as one (one.value)}<option value={one.value}>{one.label}</option>{/each}
            </select></label
          >
        {:else}
          <label style="width: 130px"
            ><span class="label">{field.label}</span>
            <input
              class="field"
              type="number"
              step="any"
              name="notice-{field.name}"
              min={field.least}
              value={cause[field.name] ?? ''}
              onchange={(event) => set(field.name, Number(event.currentTarget.value))}
            /></label
          >
        {/if}
      {/each}
    </div>
    <div class="grid grid-cols-2 gap-3 max-[700px]:grid-cols-1">
      <label
        ><span class="label">By mail to, with commas between</span>
        <input class="field" name="notice-mail" placeholder="desk@example.org" bind:value={mail} /></label
      >
      <label
        ><span class="label">To a web hook, one address a line</span>
        <textarea
          class="field mono"
          rows="1"
          name="notice-hooks"
          placeholder="https://example.org/hook"
          bind:value={hooks}></textarea></label
      >
    </div>
    <div class="flex flex-wrap items-end gap-3">
      <label
        ><span class="label">What goes with it</span>
        <select class="field" name="notice-sends" bind:value={sends}>
          <option value="" disabled={cause.why === 'time'}>nothing more</option>
          <option value="report">a report</option>
          <option value="changes">what changed in a query</option>
        </select></label
      >
      {#if sends === 'report'}
        <label
          ><span class="label">Which report</span>
          <select
            class="field"
            name="notice-report"
            value={String(notice.report ?? '')}
            onchange={(event) => (report = Number(event.currentTarget.value))}
          >
            {#each reports as one (one.id)}<option value={String(one.id)}>{one.title}</option>{/each}
          </select></label
        >
      {:else if sends === 'changes'}
        <label
          ><span class="label">Which query</span>
          <select
            class="field"
            name="notice-changes"
            value={String(notice.query ?? '')}
            onchange={(event) => (query = Number(event.currentTarget.value))}
          >
            {#each queries as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
          </select></label
        >
      {/if}
    </div>
    <div class="flex flex-wrap items-center gap-3">
      <label class="flex items-center gap-1.5"
        ><input type="checkbox" name="notice-quiet" bind:checked={quiet} /> Not between</label
      >
      <input
        class="field"
        style="width: 132px"
        type="time"
        aria-label="Quiet from"
        disabled={!quiet}
        bind:value={start}
      />
      and
      <input
        class="field"
        style="width: 132px"
        type="time"
        aria-label="Quiet until"
        disabled={!quiet}
        bind:value={end}
      />
      <label class="ml-auto flex items-center gap-1.5"
        ><input type="checkbox" name="notice-off" bind:checked={off} /> switched off</label
      >
    </div>
    <label class="block"
      ><span class="label">Its name</span>
      <input
        class="field"
        name="notice-name"
        maxlength="200"
        placeholder={entry.label}
        bind:value={name}
      /></label
    >
    {#if problem}<ProblemNote {problem} />{/if}
    {#if shown}
      <div class="shown" role="status">
        <b>{shown.title}</b>
        <pre>{shown.text}</pre>
      </div>
    {/if}
    <div class="flex gap-2">
      <button class="press main" disabled={!ready}>{info ? 'Change it' : 'Tell them'}</button>
      <button type="button" class="press" disabled={!ready} onclick={() => void look()}>See a message</button>
      <button type="button" class="press" onclick={onclose}>Cancel</button>
    </div>
  </form>
</Dialog>

<style>
  .shown {
    max-height: 220px;
    overflow: auto;
    padding: 8px 11px;
    border: 1px solid var(--line);
    border-radius: 8px;
    background: var(--page);
  }
  pre {
    margin-top: 4px;
    white-space: pre-wrap;
    font-family: inherit;
    font-size: 13px;
  }
  select.field {
    max-width: 280px;
  }
</style>
