<script lang="ts">
  import {
    api,
    ask,
    problemOf,
    type Brief,
    type LookUp,
    type Problem,
    type ServiceInfo,
  } from '../../api/client';
  import { readJson, writeJson } from '../../api/json';
  import { newColumn } from '../../domain/columns';
  import { originOf, serviceOf } from '../../domain/services';
  import AddService from '../../parts/AddService.svelte';
  import type { QueryStore } from '../queryStore.svelte';
  import { templateNames, textNames } from '../../domain/words/labels';
  import LookUpMore from './LookUpMore.svelte';
  import { extrasOf, extrasWords, hasExtras, NO_EXTRAS, type LookUpExtras } from './lookUpExtras';
  import AddKey from '../../parts/AddKey.svelte';
  import KeyForm from '../../parts/KeyForm.svelte';
  import ProblemNote from '../../ui/ProblemNote.svelte';
  import Popover from '../../ui/Popover.svelte';
  import { keepTyped } from '../../ui/typed.svelte';
  import EditorRow from './EditorRow.svelte';

  interface Props {
    work: QueryStore;
    brief: Brief;
    /** Index of the lookup, or −1 for one that is to be added. */
    index: number;
    note: string;
    services: ServiceInfo[];
    /** A service was added here. */
    onadded: (info: ServiceInfo) => void;
  }
  let { work, brief, index, note, services, onadded }: Props = $props();

  const columns = $derived(work.columns);
  const sample = (column: string): string | null => work.sample(column);
  const lookUp = $derived<LookUp | undefined>(brief.look_up[index]);
  let path = $state('');
  let service = $state('');
  let uses = $state<Record<string, string>>({});
  let fields = $state<{ place: string; name: string; on: boolean; example: string }[]>([]);
  let extras = $state.raw<LookUpExtras>(NO_EXTRAS);
  let showsMore = $state(false);
  let problem = $state<Problem | null>(null);
  let busy = $state(false);

  const names = $derived.by(() => {
    const body = extras.body?.kind === 'json' ? textNames(writeJson(extras.body.value)) : [];
    const found = [...new Set([...templateNames(path), ...body])].filter(
      (name) => !brief.parameters.some((one) => one.name === name),
    );
    // Values that go into a body as a list stand nowhere in a template.
    return extras.batch?.place && !found.length ? ['value'] : found;
  });
  /** What is still to be done; empty when the lookup can be used. */
  const lacks = $derived.by(() => {
    if (foreign) return 'Add the service first.';
    if (!service) return 'Choose a service, or paste the full address of an example call.';
    if (!names.length) return 'Put the row’s value in braces into the path, such as {code}.';
    const open = names.find((name) => !uses[name]);
    if (open) return `Choose the column that {${open}} is.`;
    if (extras.batch && !extras.batch.match)
      return 'Say at which place a record says its value, such as $.code.';
    if (extras.batch && names.length > 1 && !extras.batch.of) return 'Say which name stands for many values.';
    return fields.some((field) => field.on)
      ? ''
      : 'Ask for one row, then tick the fields that become columns.';
  });

  /** The origin of a pasted address that no service has, if that was pasted. */
  const foreign = $derived(originOf(path));

  /** A full address is the path of its service, where one is known. */
  function takeAddress(): void {
    const found = serviceOf(path, services);
    if (found) ({ service, path } = found);
  }

  const asksKey = $derived(
    ['key-refused', 'key-missing', 'key-bound-elsewhere', 'token-wanted'].includes(problem?.kind ?? ''),
  );
  const keyOf = $derived(services.find((one) => one.service.id === service));

  /** The service has a key now: the services are told, and the row is asked for again. */
  async function keyStored(): Promise<void> {
    try {
      const found = (await ask(api.GET('/api/services'))).find((one) => one.service.id === service);
      if (found) onadded(found);
    } catch (error) {
      problem = problemOf(error);
      return;
    }
    await tryOne();
  }

  function begin(): void {
    problem = null;
    path = lookUp?.path ?? '';
    service = lookUp?.service ?? brief.ask?.service ?? services[0]?.service.id ?? '';
    uses = { ...(lookUp?.with ?? {}) };
    extras = extrasOf(lookUp);
    showsMore = hasExtras(extras);
    fields = (lookUp?.take ?? []).map((one) => ({ place: one.place, name: one.name, on: true, example: '' }));
  }

  const keep = $derived(`lookup ${index} of query ${work.id}`);
  keepTyped(
    () => keep,
    () => ({ path, service, uses, fields, extras }),
    (held) => ({ path, service, uses, fields, extras } = held),
  );

  $effect(() => {
    for (const name of names)
      if (!uses[name]) uses[name] = columns.find((column) => column.name === name)?.name ?? '';
  });

  /** The body with the first row's values in it. */
  function filledBody(): unknown {
    if (extras.body?.kind !== 'json') return null;
    let text = writeJson(extras.body.value);
    for (const name of names) text = text.replaceAll(`{${name}}`, sample(uses[name] ?? '') ?? '');
    return { kind: 'json', value: readJson(text) };
  }

  /** A body with one value in the list that many values go into. */
  function bodyOfOne(): unknown {
    const keys = (extras.batch?.place ?? '')
      .replace(/^\$\.?/, '')
      .split('.')
      .filter(Boolean);
    const name = extras.batch?.of ?? names[0] ?? Object.keys(uses)[0] ?? '';
    return keys.reduceRight<unknown>((inner, key) => ({ [key]: inner }), [sample(uses[name] ?? '') ?? '']);
  }

  /** Ask for the first row's value, to see which fields come back. */
  async function tryOne(): Promise<void> {
    busy = true;
    problem = null;
    let address = path;
    for (const name of names)
      address = address.replaceAll(`{${name}}`, encodeURIComponent(sample(uses[name] ?? '') ?? ''));
    try {
      const preview = await ask(
        api.POST('/api/ask-once', {
          body: {
            brief: {
              ...brief,
              name: 'lookup',
              ask: {
                service,
                method: extras.method,
                path: address,
                query: [],
                headers: extras.headers,
                body: extras.batch?.place
                  ? ({ kind: 'json', value: bodyOfOne() } as never)
                  : (filledBody() as never),
              },
              sheet: null,
              each: [],
              pages: { by: 'none', total: null },
              take: {
                records: extras.batch?.records ?? extras.records ?? '$',
                rows_for: [],
                without_items: 'keep',
                keyed: [],
                columns: null,
              },
              look_up: [],
              work_out: [],
            },
            values: work.given,
          },
        }),
      );
      problem = preview.problem ?? null;
      if (problem) return;
      const window = await ask(
        api.POST('/api/table/rows', {
          body: {
            snapshot: null,
            preview: preview.id,
            lines: [],
            view: { sort: [], where: [] },
            start: 0,
            count: 1,
          },
        }),
      );
      const row = window.rows[0] ?? [];
      const have = new Set(fields.map((field) => field.place));
      const found = preview.columns.map((column, at) => ({
        place: column.place,
        name: column.name,
        on: false,
        example: String(row[at] ?? ''),
      }));
      for (const field of fields)
        field.example = found.find((one) => one.place === field.place)?.example ?? '';
      fields = [...fields, ...found.filter((one) => !have.has(one.place))];
      // The field that holds what was asked for says which value a record is of.
      const own = found.find((one) => names.some((name) => one.example === sample(uses[name] ?? '')));
      if (extras.batch && !extras.batch.match && own)
        extras = { ...extras, batch: { ...extras.batch, match: own.place } };
    } catch (error) {
      problem = problemOf(error);
    } finally {
      busy = false;
    }
  }

  function done(close: () => void): void {
    const taken = fields.filter((field) => field.on);
    const word = (taken[0]?.name ?? 'lookup').replace(/[^A-Za-z0-9_]+/g, '_').replace(/^(\d)/, '_$1');
    const others = brief.look_up.filter((_, at) => at !== index).map((one) => one.name);
    let name = lookUp?.name ?? word;
    while (others.includes(name)) name += '_2';
    const made: LookUp = {
      name,
      service: service === brief.ask?.service ? null : service,
      path: path.trim(),
      query: lookUp?.query ?? [],
      with: Object.fromEntries(names.map((one) => [one, uses[one] ?? ''])),
      take: taken.map(
        (field) =>
          lookUp?.take.find((one) => one.place === field.place) ?? newColumn(field.place, field.name),
      ),
      missing: lookUp?.missing ?? [404],
      ...extras,
    };
    const list = [...brief.look_up];
    if (index < 0) list.push(made);
    else list[index] = made;
    void work.change({ ...brief, look_up: list });
    close();
  }

  function remove(close: () => void): void {
    void work.change({ ...brief, look_up: brief.look_up.filter((_, at) => at !== index) });
    close();
  }
</script>

{#snippet editor(close: () => void)}
  <div class="space-y-3">
    <p class="muted text-[13px]">
      For each row one call, with values of that row in it. Equal values are asked once.
    </p>
    {#if services.length > 1 || !brief.ask}
      <label class="block">
        <span class="label">Service</span>
        <select class="field" name="lookup-service" bind:value={service}>
          {#each services as one (one.service.id)}<option value={one.service.id}>{one.service.name}</option
            >{/each}
        </select>
      </label>
    {/if}
    <label class="block">
      <span class="label"
        >Path, with the row’s value in braces, such as <code>{'/ports/{port_code}'}</code></span
      >
      <input
        class="field mono"
        name="lookup-path"
        bind:value={path}
        onchange={takeAddress}
        placeholder={'/ports/{port_code}'}
      />
      <small class="muted">A full address can be pasted, too: its service is found, or added here.</small>
    </label>
    {#if foreign}
      <AddService
        origin={foreign}
        onadded={(info) => {
          onadded(info);
          service = info.service.id;
          path = path.trim().slice(foreign.length) || '/';
        }}
      />
    {/if}
    {#each names as name (name)}
      <label class="block">
        <span class="label"><code>{`{${name}}`}</code> is the row’s</span>
        <select class="field" bind:value={uses[name]}>
          <option value="">choose a column</option>
          {#each columns as column (column.name)}<option value={column.name}>{column.name}</option>{/each}
        </select>
      </label>
    {/each}
    {#if names.length && names.every((name) => uses[name])}
      <button class="press small" onclick={tryOne} disabled={busy}>
        Ask for {names.map((name) => sample(uses[name] ?? '') ?? 'the first row').join(', ')} to see its fields
      </button>
    {/if}
    {#if problem}
      <ProblemNote {problem}>
        {#if asksKey && keyOf && !keyOf.service.key}
          <div class="mt-2"><AddKey service={keyOf.service} onstored={keyStored} /></div>
        {:else if asksKey && keyOf}
          <div class="mt-2">
            <KeyForm
              service={keyOf.service}
              fields={keyOf.key?.required_fields ?? []}
              asksEnd={false}
              onstored={keyStored}
            />
          </div>
        {/if}
      </ProblemNote>
    {/if}
    {#if fields.length}
      <div class="max-h-56 overflow-auto">
        <span class="label">Fields that become columns</span>
        {#each fields as field (field.place)}
          <div class="flex items-center gap-2 py-0.5">
            <input type="checkbox" bind:checked={field.on} aria-label="Take {field.place}" />
            <input
              class="field"
              style="height: 25px; flex: 1"
              bind:value={field.name}
              aria-label="Name of {field.place}"
            />
            <span class="muted truncate text-[12.5px]" style="max-width: 150px"
              >{field.example || field.place}</span
            >
          </div>
        {/each}
      </div>
    {/if}
    <details bind:open={showsMore}>
      <summary class="plain cursor-pointer text-[13px]" style="color: var(--link)"
        >Many values a call, several records, kept answers, a body</summary
      >
      <div class="mt-2">
        <LookUpMore
          {extras}
          {names}
          places={fields.map((field) => field.place)}
          onchange={(changed) => (extras = changed)}
        />
      </div>
    </details>
    <div class="flex items-center gap-2">
      <button class="press main small" disabled={!!lacks} onclick={() => done(close)}>Done</button>
      {#if index >= 0}<button class="press small" onclick={() => remove(close)}>Remove</button>{/if}
      {#if lacks}<span class="muted text-[12.5px]" role="status">{lacks}</span>{/if}
    </div>
  </div>
{/snippet}

{#if lookUp}
  <EditorRow verb="Look up" {note}>
    <Popover label="Look up" onopen={begin} {keep}>
      {#snippet trigger()}{lookUp.take.map((one) => one.name).join(', ')}{/snippet}
      {#snippet children(close)}{@render editor(close)}{/snippet}
    </Popover>
    by <code>{Object.values(lookUp.with).join(', ')}</code> at
    <Popover label="Look up" look="phrase code" onopen={begin} {keep}>
      {#snippet trigger()}{lookUp.path}{/snippet}
      {#snippet children(close)}{@render editor(close)}{/snippet}
    </Popover>{extrasWords(extrasOf(lookUp)) ? `, ${extrasWords(extrasOf(lookUp))}` : ''}.
  </EditorRow>
{:else}
  <EditorRow verb="Look up">
    <Popover label="Look up" look="phrase quiet" onopen={begin} {keep}>
      {#snippet trigger()}{brief.look_up.length ? 'something more' : 'nothing yet'}{/snippet}
      {#snippet children(close)}{@render editor(close)}{/snippet}
    </Popover>
  </EditorRow>
{/if}
