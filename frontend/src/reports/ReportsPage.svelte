<!-- All reports; one begins from a query in one click. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { push } from 'svelte-spa-router';
  import { api, ask, problemOf, type Problem, type Schemas } from '../api/client';
  import { when } from '../domain/words/format';
  import Confirm from '../ui/Confirm.svelte';
  import Popover from '../ui/Popover.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';

  let reports = $state.raw<Schemas['ReportLine'][] | null>(null);
  let queries = $state.raw<Schemas['QueryLine'][]>([]);
  let problem = $state.raw<Problem | null>(null);
  let dropping = $state.raw<Schemas['ReportLine'] | null>(null);
  let find = $state('');
  const told = $derived(
    queries.filter((one) => one.name.toLowerCase().includes(find.trim().toLowerCase())).slice(0, 40),
  );

  const fail = (error: unknown): void => {
    problem = problemOf(error);
  };
  const load = (): Promise<void> =>
    ask(api.GET('/api/reports')).then((found) => {
      reports = found;
    }, fail);

  onMount(() => {
    document.title = 'Reports · Tin Bucket';
    void load();
    ask(api.GET('/api/desk')).then((desk) => (queries = desk.queries), fail);
  });

  async function begin(query_id: number): Promise<void> {
    try {
      const made = await ask(api.POST('/api/reports/begin', { body: { query_id } }));
      await push(`/report/${made.id}`);
    } catch (error) {
      fail(error);
    }
  }

  async function blank(): Promise<void> {
    const report = {
      tin_bucket_report: 1 as const,
      title: 'A new report',
      figures: [],
      choices: [],
      blocks: [{ block: 'text' as const, text: '' }],
      against: 'P7D' as const,
      files: [],
      address: '',
    };
    try {
      const made = await ask(api.POST('/api/reports', { body: { report } }));
      await push(`/report/${made.id}`);
    } catch (error) {
      fail(error);
    }
  }

  async function drop(id: number): Promise<void> {
    try {
      await ask(api.DELETE('/api/reports/{report_id}', { params: { path: { report_id: id } } }));
      await load();
    } catch (error) {
      fail(error);
    }
  }
</script>

{#snippet fromQuery(look: string)}
  <Popover label="A report of a query" {look} width={330} placement="bottom-end">
    {#snippet trigger()}New report{/snippet}
    {#snippet children(close)}
      <p class="mb-2 text-[13px]">
        It begins with a paragraph, a chart and what changed, and all of it can be written over.
      </p>
      {#if queries.length > 8}
        <input class="field mb-2" name="find-query" placeholder="find a query" bind:value={find} />
      {/if}
      <ul class="from" aria-label="Queries">
        {#each told as one (one.id)}
          <li>
            <button
              class="plain"
              onclick={() => {
                close();
                void begin(one.id);
              }}>{one.name}</button
            >
          </li>
        {:else}
          <li class="muted">There is no such query.</li>
        {/each}
      </ul>
      <button
        class="press mt-2 w-full"
        onclick={() => {
          close();
          void blank();
        }}>An empty page</button
      >
    {/snippet}
  </Popover>
{/snippet}

<div class="h-full overflow-auto px-6 py-5" style="background: var(--band)">
  <div class="flex flex-wrap items-center gap-3">
    <h1 class="flex-1 text-[19px] font-bold">Reports</h1>
    {#if reports?.length}{@render fromQuery('press main')}{/if}
  </div>
  {#if problem}<div class="mt-3"><ProblemNote {problem} /></div>{/if}
  {#if reports && !reports.length}
    <div class="mx-auto mt-12 max-w-xl text-center">
      <p class="text-[15px]">There is no report yet.</p>
      <p class="muted mt-2 mb-5">
        A report is a page of text whose figures are live: each one says from which table it is and as of
        when, and leads to its rows. Charts, tables and what changed stand between the paragraphs.
      </p>
      {#if queries.length}{@render fromQuery('press main')}{:else}
        <p class="muted">It begins from a query. <a class="plain" href="#/">Make one on the desk.</a></p>
      {/if}
    </div>
  {:else if reports}
    <div class="relative overflow-x-auto">
      <table class="listing mt-4 w-full text-[13.5px]">
        <thead>
          <tr
            ><th>Report</th><th>Made of</th><th class="right">Exhibits</th><th>Readers</th><th>Changed</th><th
              ><span class="sr-only">Do</span></th
            ></tr
          >
        </thead>
        <tbody>
          {#each reports as one (one.id)}
            <tr>
              <td class="name"
                ><a class="font-semibold" href="#/report/{one.id}" title={one.title}>{one.title}</a></td
              >
              <td class="of" title={one.queries.join(', ')}>{one.queries.join(', ')}</td>
              <td class="right">{one.exhibits}</td>
              <td
                >{#if one.address}/reports/{one.address}{:else}<span class="muted">only here</span>{/if}</td
              >
              <td>{when(one.changed)}</td>
              <td class="right"><button class="plain" onclick={() => (dropping = one)}>Delete</button></td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
</div>
{#if dropping}
  {@const one = dropping}
  <Confirm
    title="Delete “{one.title}”?"
    yes="Delete the report"
    onyes={() => {
      void drop(one.id);
      dropping = null;
    }}
    onno={() => (dropping = null)}
  >
    Its text goes, and nobody can read it any more. The queries that it is made of stay.
  </Confirm>
{/if}

<style>
  .from {
    max-height: 280px;
    overflow: auto;
    font-size: 13.5px;
    line-height: 26px;
  }
  .name {
    max-width: 330px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .of {
    max-width: 420px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
</style>
