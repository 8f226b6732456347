<!-- Takes services, queries and reports out as a file, and brings them in from one, with clashes shown first. -->
<script lang="ts">
  import { readJson } from '../api/json';
  import { api, ask, problemOf, type ImportPlan, type Problem } from '../api/client';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import Dialog from '../ui/Dialog.svelte';

  interface Props {
    onclose: () => void;
  }
  let { onclose }: Props = $props();
  let document = $state.raw<unknown>(null);
  let fileName = $state('');
  let import_plan = $state.raw<ImportPlan | null>(null);
  let choices = $state<Record<string, string>>({});
  let done = $state(false);
  let problem = $state<Problem | null>(null);

  async function read(file: File | undefined): Promise<void> {
    if (!file) return;
    fileName = file.name;
    import_plan = null;
    done = false;
    choices = {};
    try {
      document = readJson(await file.text());
    } catch {
      problem = {
        kind: 'bundle-unreadable',
        what: 'This file is not JSON.',
        where: file.name,
        do: 'Choose a file that Tin Bucket exported. Nothing was changed.',
        words: '',
      };
      return;
    }
    await look();
  }

  async function look(): Promise<void> {
    try {
      import_plan = await ask(api.POST('/api/bundle/look', { body: { document, choices } }));
      problem = null;
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function bring(): Promise<void> {
    try {
      import_plan = await ask(api.POST('/api/bundle/bring', { body: { document, choices } }));
      problem = null;
      done = true;
    } catch (error) {
      problem = problemOf(error);
    }
  }

  const STATES: Record<string, string> = {
    new: 'new here',
    same: 'already here, identical',
    clash: 'already here, different',
  };
  const DONE: Record<string, string> = {
    add: 'added',
    keep: 'kept the existing one',
    replace: 'replaced',
    beside: 'imported under another name',
  };
  const SEVERAL: Record<string, string> = { service: 'services', query: 'queries', report: 'reports' };
  /** What is here already and identical is nothing to decide. */
  const listed = $derived(import_plan?.items.filter((item) => item.state !== 'same') ?? []);
  const same = $derived(import_plan?.items.filter((item) => item.state === 'same') ?? []);
  const sameWords = $derived(
    Object.keys(SEVERAL)
      .map((kind) => [kind, same.filter((item) => item.kind === kind).length] as const)
      .filter(([, some]) => some)
      .map(([kind, some]) => `${some} ${some === 1 ? kind : SEVERAL[kind]}`)
      .join(', '),
  );
  const comes = $derived(import_plan?.items.filter((item) => item.choice !== 'keep').length ?? 0);
</script>

<Dialog title="Export and import definitions" open {onclose} width={640}>
  <div class="space-y-4">
    <section>
      <h3 class="font-bold">Export</h3>
      <p class="muted mb-2">
        Every service, query and report as one JSON file. It contains no key; it lists the keys that must be
        entered again. Notices, with the people they tell, stay here.
      </p>
      <a class="press" href="/api/bundle" download>Export everything</a>
    </section>
    <section class="border-t pt-3" style="border-color: var(--hair)">
      <h3 class="font-bold">Import</h3>
      <p class="muted mb-2">Nothing changes until you have seen what would.</p>
      <label class="press">
        Choose a file…
        <input
          class="sr-only"
          type="file"
          accept=".json,application/json"
          onchange={(event) => read(event.currentTarget.files?.[0])}
        />
      </label>
      {#if fileName}<span class="muted ml-2">{fileName}</span>{/if}
      {#if problem}<div class="mt-3"><ProblemNote {problem} /></div>{/if}
      {#if import_plan && !problem}
        <table class="mt-3 w-full text-[13.5px]">
          <tbody>
            {#each listed as item (item.kind + item.name)}
              {@const id = `${item.kind} ${item.name}`}
              <tr>
                <td class="muted w-16">{item.kind}</td>
                <td class="font-semibold wrap-anywhere">{item.name}</td>
                <td class="muted w-44">{done ? DONE[item.choice] : STATES[item.state]}</td>
                <td class="w-44 text-right">
                  {#if !done && item.state === 'clash'}
                    <select
                      class="field"
                      aria-label="What to do with {item.name}"
                      value={item.choice}
                      onchange={(event) => {
                        choices = { ...choices, [id]: event.currentTarget.value };
                        void look();
                      }}
                    >
                      <option value="keep">keep the existing one</option>
                      <option value="replace">replace the existing one</option>
                      <option value="beside">keep both</option>
                    </select>
                  {/if}
                </td>
              </tr>
            {/each}
          </tbody>
        </table>
        {#if same.length}
          <details class="mt-3">
            <summary class="muted">Already here, identical: {sameWords}</summary>
            <p class="muted mt-1 wrap-anywhere">{same.map((item) => item.name).join(', ')}</p>
          </details>
        {/if}
        {#each import_plan.required_keys as wanted (wanted.service)}
          <p class="seen mt-2">
            {wanted.service} needs its key “{wanted.key}”: enter it {done ? 'now' : 'afterwards'}.
          </p>
        {/each}
        {#each import_plan.required_sheets as sheet (sheet)}
          <p class="seen mt-2">The sheet “{sheet}” is read, and is not here; add it on the page Sheets.</p>
        {/each}
        {#each import_plan.left_files as { title, path } (title + path)}
          <p class="seen mt-2">
            “{title}” was written to {path} there. It is written nowhere here, until you choose a file under
            <em>Hand out</em>.
          </p>
        {/each}
        <div class="mt-3 flex gap-2">
          {#if done}
            <button class="press main" onclick={onclose}>Done</button>
          {:else}
            <button class="press main" disabled={comes === 0} onclick={bring}
              >{comes === 0 ? 'Nothing to import' : `Import ${comes}`}</button
            >
          {/if}
        </div>
      {/if}
    </section>
  </div>
</Dialog>

<style>
  td {
    padding: 4px 8px 4px 0;
    border-bottom: 1px solid var(--hair);
  }
</style>
