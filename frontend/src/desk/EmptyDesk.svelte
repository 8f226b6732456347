<!-- A desk without a query: what to do, and services to try it on. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, problemOf, type Problem, type Schemas } from '../api/client';
  import BucketMark from '../ui/BucketMark.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';

  interface Props {
    /** Whether there is a service already. */
    known: boolean;
    /** Somebody wants to begin with a text. */
    ontry: (text: string) => void;
  }
  let { known, ontry }: Props = $props();

  let practice = $state.raw<Schemas['PracticeInfo'] | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let busy = $state(false);

  onMount(() => {
    ask(api.GET('/api/practice')).then(
      (found) => (practice = found),
      () => {}, // Then nothing is offered.
    );
  });

  async function start(): Promise<void> {
    busy = true;
    try {
      practice = await ask(api.POST('/api/practice'));
      problem = null;
    } catch (error) {
      problem = problemOf(error);
    }
    busy = false;
  }

  const WAY: [string, string][] = [
    [
      'Paste',
      'an example address or command from an API’s docs into the box above. It is taken apart, and nothing is sent yet.',
    ],
    ['Look', 'at one answer: say how pages are turned, and what becomes a row.'],
    ['Refresh', 'to fetch all of it. Each refresh keeps a dated snapshot.'],
    ['Use it', 'as a workbook or a file, and compare it with the snapshot before.'],
  ];
</script>

<div class="mx-auto mt-8 max-w-3xl">
  <div class="flex items-center justify-center gap-4">
    <BucketMark level={0} size={52} />
    <h1 class="text-xl font-bold">The desk is empty</h1>
  </div>
  <ol class="way">
    {#each WAY as [verb, words], at (verb)}
      <li><span class="number">{at + 1}</span><strong>{verb}</strong> {words}</li>
    {/each}
  </ol>
  {#if !known}
    <p class="muted mt-3 text-center text-[13px]">
      A service and its key can also be <a class="plain" href="#/services">set up first</a>, and
      <a class="plain" href="#/sheets">rows of a sheet</a> can be read like an answer.
    </p>
  {/if}
  {#if practice?.offered}
    <section class="practice" aria-labelledby="practice">
      <h2 id="practice" class="font-bold">No API at hand?</h2>
      {#if practice.examples.length}
        <p class="muted">Practice services of a made-up ferry company run on this machine. Begin with one:</p>
        <ul>
          {#each practice.examples as one (one.name)}
            <li>
              <button class="press small main" onclick={() => ontry(one.text)}>{one.name}</button>
              <span class="min-w-0 flex-1">{one.shows}</span>
              <a class="plain" href={one.docs} target="_blank" rel="noreferrer">its docs</a>
            </li>
          {/each}
        </ul>
      {:else}
        <p class="muted">
          Tin Bucket has practice services: a made-up ferry company with sailings, vessels and passengers, on
          this machine alone.
        </p>
        <button class="press mt-2" disabled={busy} onclick={start}>Start the practice services</button>
      {/if}
      {#if problem}<div class="mt-2"><ProblemNote {problem} /></div>{/if}
    </section>
  {/if}
</div>

<style>
  .way {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(160px, 1fr));
    gap: 12px;
    margin-top: 22px;
  }
  .way li {
    padding: 12px 14px;
    border: 1px solid var(--line);
    border-radius: 9px;
    background: var(--paper);
    font-size: 13.5px;
  }
  .number {
    display: block;
    color: var(--damson);
    font-weight: 700;
    font-size: 16px;
  }
  .practice {
    margin-top: 22px;
    padding: 14px 16px;
    border: 1px solid var(--line);
    border-radius: 9px;
    background: var(--paper);
  }
  .practice li {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 12px;
    margin-top: 8px;
  }
</style>
