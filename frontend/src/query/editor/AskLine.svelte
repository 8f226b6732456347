<!-- What is asked: method, path, address parameters, headers, body. -->
<script lang="ts">
  import type { Ask, Brief, Pair, Parameter, ServiceInfo } from '../../api/client';
  import type { Json } from '../../domain/jsontree';
  import { parameterFrom } from '../../domain/parameters';
  import { originOf, serviceOf } from '../../domain/services';
  import { templateNames, withParameters } from '../../domain/words/labels';
  import PairsField from '../../ui/PairsField.svelte';
  import Popover from '../../ui/Popover.svelte';
  import { keepTyped } from '../../ui/typed.svelte';
  import JsonField from '../../ui/JsonField.svelte';
  import AddService from '../../parts/AddService.svelte';
  import EditorRow from './EditorRow.svelte';

  interface Props {
    brief: Brief;
    ask: Ask;
    services: ServiceInfo[];
    /** Number of the query. */
    id: number;
    onchange: (brief: Brief) => void;
    /** A service was added here. */
    onadded: (info: ServiceInfo) => void;
  }
  let { brief, ask, services, id, onchange, onadded }: Props = $props();

  type Body = NonNullable<Ask['body']>;
  const METHODS: Ask['method'][] = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD'];
  const BODIES: [Body['kind'], string][] = [
    ['json', 'JSON'],
    ['form', 'a form'],
    ['multipart', 'a multipart form'],
    ['text', 'text'],
  ];

  const service = $derived(services.find((one) => one.service.id === ask.service));
  let draft = $state.raw<Ask>({ service: '', method: 'GET', path: '/', query: [], headers: [] });
  let query = $state.raw<Pair[]>([]);
  let headers = $state.raw<Pair[]>([]);
  let made = $state.raw<Parameter[]>([]);
  let fault = $state('');
  /** The origin of a pasted address that no service has. */
  const foreign = $derived(originOf(draft.path));

  function begin(): void {
    draft = structuredClone($state.snapshot(ask));
    query = draft.query;
    headers = draft.headers;
    made = [];
    fault = '';
  }

  const keep = $derived(`question of query ${id}`);
  keepTyped(
    () => keep,
    () => ({ draft, query, headers, made, fault }),
    (held) => ({ draft, query, headers, made, fault } = held),
  );

  const named = (pairs: Pair[]): Pair[] =>
    pairs.filter((pair) => pair.name.trim()).map((pair) => ({ ...pair, name: pair.name.trim() }));

  function done(event: SubmitEvent, close: () => void): void {
    event.preventDefault();
    if (fault || foreign) return;
    const body = draft.body;
    const kept =
      body && (body.kind === 'form' || body.kind === 'multipart')
        ? { ...body, fields: named(body.fields) }
        : body;
    const next = {
      ...draft,
      path: draft.path.trim() || '/',
      query: named(query),
      headers: named(headers),
      body: kept ?? null,
    };
    onchange(withParameters({ ...brief, ask: next, parameters: [...brief.parameters, ...made] }));
    close();
  }

  function chooseBody(kind: string): void {
    const bodies: Record<string, Body | null> = {
      json: { kind: 'json', value: {} },
      form: { kind: 'form', fields: [] },
      multipart: { kind: 'multipart', fields: [] },
      text: { kind: 'text', text: '', media_type: 'text/plain' },
    };
    const body = bodies[kind] ?? null;
    fault = '';
    draft = { ...draft, body, method: body && draft.method === 'GET' ? 'POST' : draft.method };
  }

  /** A parameter that gives the value back as it was; what stands in its place is its name in braces. */
  function parameterOf(name: string, value: Json): string {
    const taken = new Set([...brief.parameters, ...made].map((one) => one.name));
    const parameter = parameterFrom(name, value, taken);
    made = [...made, parameter];
    return `{${parameter.name}}`;
  }

  function said(value: string | null): { text: string; isParameter: boolean } {
    if (value === null) return { text: '', isParameter: false };
    const names = templateNames(value);
    return names.length === 1 && value === `{${names[0]}}`
      ? { text: names[0] ?? '', isParameter: true }
      : { text: value || '(empty)', isParameter: false };
  }

  const bodyWords = $derived(
    ask.body
      ? { json: 'a JSON body', text: 'a text body', form: 'a form', multipart: 'a form' }[ask.body.kind]
      : '',
  );
</script>

{#snippet form(close: () => void)}
  <form onsubmit={(event) => done(event, close)} class="space-y-3">
    <div class="grid grid-cols-[1fr_100px] gap-3">
      <label>
        <span class="label">Service</span>
        <select
          class="field"
          value={draft.service}
          onchange={(event) => (draft = { ...draft, service: event.currentTarget.value })}
        >
          {#each services as one (one.service.id)}<option value={one.service.id}>{one.service.name}</option
            >{/each}
        </select>
      </label>
      <label>
        <span class="label">Method</span>
        <select
          class="field"
          name="method"
          value={draft.method}
          onchange={(event) => (draft = { ...draft, method: event.currentTarget.value as Ask['method'] })}
        >
          {#each METHODS as method (method)}<option>{method}</option>{/each}
        </select>
      </label>
    </div>
    <label class="block">
      <span class="label"
        >Path below its base address; a parameter stands in braces, such as <code>{'/ports/{code}'}</code
        ></span
      >
      <input
        class="field mono"
        name="path"
        value={draft.path}
        oninput={(event) => (draft = { ...draft, path: event.currentTarget.value })}
        onchange={() => {
          const found = serviceOf(draft.path, services);
          if (found) draft = { ...draft, ...found };
        }}
      />
      <small class="muted">A full address can be pasted, too: its service is found, or added here.</small>
    </label>
    {#if foreign}
      <AddService
        origin={foreign}
        onadded={(info) => {
          onadded(info);
          draft = {
            ...draft,
            service: info.service.id,
            path: draft.path.trim().slice(foreign.length) || '/',
          };
        }}
      />
    {/if}
    <PairsField
      legend="Address parameters: name, and a value or a parameter in braces"
      bind:pairs={query}
      more="one more"
      bare
      onparameter={parameterOf}
    />
    <PairsField
      legend="Headers of this question"
      bind:pairs={headers}
      more="one more header"
      onparameter={parameterOf}
    />
    <div>
      <label class="block">
        <span class="label">Body</span>
        <select
          class="field"
          name="body"
          style="width: 190px"
          value={draft.body?.kind ?? 'none'}
          onchange={(event) => chooseBody(event.currentTarget.value)}
        >
          <option value="none">none</option>
          {#each BODIES as [kind, words] (kind)}<option value={kind}>{words}</option>{/each}
        </select>
      </label>
      {#if draft.body?.kind === 'json'}
        <div class="mt-2">
          <JsonField
            bind:value={
              () => (draft.body?.kind === 'json' ? (draft.body.value as Json) : null),
              (value) => (draft = { ...draft, body: { kind: 'json', value } })
            }
            bind:fault
            onparameter={parameterOf}
          />
        </div>
      {:else if draft.body?.kind === 'form' || draft.body?.kind === 'multipart'}
        {@const kind = draft.body.kind}
        <div class="mt-2">
          <PairsField
            legend="Fields"
            bind:pairs={
              () => (draft.body && 'fields' in draft.body ? draft.body.fields : []),
              (fields) => (draft = { ...draft, body: { kind, fields } })
            }
            more="one more field"
            onparameter={parameterOf}
          />
        </div>
      {:else if draft.body?.kind === 'text'}
        {@const body = draft.body}
        <div class="mt-2 space-y-2">
          <textarea
            class="field mono"
            rows="4"
            aria-label="Body"
            value={body.text}
            oninput={(event) => (draft = { ...draft, body: { ...body, text: event.currentTarget.value } })}
          ></textarea>
          <input
            class="field mono"
            aria-label="Media type"
            value={body.media_type}
            oninput={(event) =>
              (draft = { ...draft, body: { ...body, media_type: event.currentTarget.value } })}
          />
        </div>
      {/if}
    </div>
    <div class="foot"><button class="press main small" disabled={!!fault || !!foreign}>Done</button></div>
  </form>
{/snippet}

<EditorRow verb="Ask">
  <Popover label="The question" onopen={begin} width={560} {keep}>
    {#snippet trigger()}{service?.service.name ?? 'no service'}{/snippet}
    {#snippet children(close)}{@render form(close)}{/snippet}
  </Popover>
  for
  <Popover label="The question" look="phrase code" onopen={begin} width={560} {keep}>
    {#snippet trigger()}{ask.method === 'GET' ? '' : `${ask.method} `}{ask.path}{/snippet}
    {#snippet children(close)}{@render form(close)}{/snippet}
  </Popover>
  {#if ask.body}
    with
    <Popover label="The question" onopen={begin} width={560} {keep}>
      {#snippet trigger()}{bodyWords}{/snippet}
      {#snippet children(close)}{@render form(close)}{/snippet}
    </Popover>{/if}{#each ask.query as pair, at (at)}
    {@const value = said(pair.value)}{@const same = value.isParameter && value.text === pair.name}{at === 0
      ? ' with '
      : ', '}{#if !same}<code>{pair.name}</code>{/if}
    {#if pair.value !== null}{same ? '' : '= '}
      {#if value.isParameter}<Popover label="The question" onopen={begin} width={560} {keep}>
          {#snippet trigger()}{value.text}{/snippet}
          {#snippet children(close)}{@render form(close)}{/snippet}
        </Popover>{:else}<code>{value.text}</code>{/if}{/if}{/each}.
</EditorRow>
