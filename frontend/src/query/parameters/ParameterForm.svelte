<!-- One parameter: its kind, its value or default, how it is sent, and what is said of it. -->
<script lang="ts">
  import { writeJson } from '../../api/json';
  import { onDestroy, untrack } from 'svelte';
  import { api, ask, type Brief, type Choice, type Given, type Parameter } from '../../api/client';
  import { day } from '../../domain/words/format';
  import { choices as registry } from '../../domain/choices';
  import {
    builtOf,
    choicesOf,
    editOf,
    givenOf,
    isDated,
    kindOf,
    lines,
    type Edit,
  } from '../../domain/parameters';
  import { amountOf } from '../../domain/words/durations';
  import { askNames } from '../../domain/words/labels';
  import ChoiceFields from '../../ui/ChoiceFields.svelte';
  import ChoicesField from './ChoicesField.svelte';
  import RelativeDateField from '../../parts/RelativeDateField.svelte';

  interface Props {
    brief: Brief;
    parameter: Parameter;
    given: Given | undefined;
    today: Given | undefined;
    /** The choices that are read from another table. */
    offered: Choice[] | undefined;
    queryId: number;
    /** What a refresh uses that nobody gives a value, in words. */
    usual: string;
    /** A value for the calls made here; `undefined` goes back to the default. */
    onuse: (value: Given | undefined) => void;
    ondefault: (parameter: Parameter) => void;
    ondrop: () => void;
    onclose: () => void;
    /** Make a call with the value, to see its table. */
    onask: () => void;
  }
  let {
    brief,
    parameter,
    given,
    today,
    offered,
    queryId,
    usual,
    onuse,
    ondefault,
    ondrop,
    onclose,
    onask,
  }: Props = $props();

  let edit = $state<Edit>(untrack(() => editOf(parameter, given, today)));
  /** Whom the value holds for: the calls that are made here, or every refresh. */
  let holds = $state<'here' | 'all'>(
    untrack(() =>
      given === undefined && (parameter.default === null || parameter.default === undefined) ? 'all' : 'here',
    ),
  );
  const begun = untrack(() => $state.snapshot(edit));
  const heldFor = untrack(() => holds);
  let settled = false;
  let value = $state<Given | undefined>(untrack(() => today));
  let sent = $state('');

  const kind = $derived(kindOf(edit.kind));
  const dated = $derived(isDated(edit.kind));
  const choices = $derived(offered?.length ? offered : choicesOf(edit.choices));
  const used = $derived(
    (brief.ask ? askNames(brief.ask) : []).includes(parameter.name) ||
      writeJson([brief.look_up, brief.each]).includes(parameter.name),
  );
  // What a date is today, and how it is sent, is told by the server: one rule, in one place.
  $effect(() => {
    if (!dated) return;
    const built = builtOf($state.snapshot(edit));
    const timer = setTimeout(() => {
      ask(api.POST('/api/parameter', { body: { parameter: built, query_id: queryId } })).then(
        (found) => ({ value, sent } = { value: found.value ?? undefined, sent: found.sent }),
        () => (sent = ''),
      );
    }, 120);
    return () => clearTimeout(timer);
  });

  // A date that moves is a default by its nature, and a value of another kind needs that kind.
  const everywhere = $derived(
    edit.kind !== parameter.kind || edit.many !== parameter.many || (dated && edit.moves && !edit.many),
  );

  /** Use what is set, for whom it is set. */
  function apply(): void {
    if (settled) return;
    settled = true;
    const now = $state.snapshot(edit);
    if (holds === heldFor && writeJson(now) === writeJson(begun)) return;
    const built = builtOf(now);
    if (everywhere || holds === 'all') {
      ondefault(built);
      return;
    }
    // What else was set of it holds for everybody.
    const definition = (one: Edit): string => writeJson({ ...builtOf({ ...one, text: '' }), default: null });
    if (definition(now) !== definition(begun))
      ondefault({ ...built, default: parameter.default } as Parameter);
    if (writeJson(givenOf(now)) !== writeJson(givenOf(begun)) || now.moves !== begun.moves)
      onuse(givenOf(now));
  }

  // What was typed counts, also when somebody clicks beside the panel.
  onDestroy(apply);

  const told = $derived(
    typeof value === 'string' && value
      ? edit.kind === 'date'
        ? day(value)
        : value.replace('T', ' ').slice(0, 16)
      : '',
  );

  /** A moment moves by hours, a date does not. */
  function fitKind(): void {
    if (!kind.anchors.includes(edit.anchor)) edit.anchor = kind.anchors[0] ?? '';
    const unit = amountOf(edit.offset)?.unit;
    if (unit && !kind.units.some((one) => one.value === unit)) edit.offset = 'P0D';
  }

  const setOwn = (name: string, value: unknown): void => void (edit.own[name] = value);

  function toggle(code: string, on: boolean): void {
    const rest = lines(edit.text).filter((one) => one !== code);
    edit.text = (on ? [...rest, code] : rest).join('\n');
  }
</script>

<form
  class="space-y-3"
  onsubmit={(event) => {
    event.preventDefault();
    apply();
    onclose();
    onask();
  }}
>
  <div class="flex items-end gap-3">
    <label class="flex-1">
      <span class="label">Kind</span>
      <select class="field" name="kind" bind:value={edit.kind} onchange={fitKind}>
        {#each registry().parameters as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
      </select>
    </label>
    <label class="mb-1.5"><input type="checkbox" name="many" bind:checked={edit.many} /> a list</label>
  </div>

  {#if dated && !edit.many}
    <div class="flex gap-4">
      <label
        ><input type="radio" value={false} bind:group={edit.moves} /> one {edit.kind === 'month'
          ? 'month'
          : 'date'}</label
      >
      <label><input type="radio" value={true} bind:group={edit.moves} /> moves with the calendar</label>
    </div>
  {/if}

  {#if dated && edit.moves && !edit.many}
    <RelativeDateField
      value={{ anchor: edit.anchor, offset: edit.offset }}
      kind={edit.kind}
      onchange={(moved) => Object.assign(edit, moved)}
    />
    {#if edit.anchor === 'last refresh'}
      <label class="block">
        <span class="label">While there has been no refresh yet</span>
        <input class="field" type={kind.typed_as} bind:value={edit.first} />
      </label>
    {/if}
  {:else if edit.kind === 'choice' && choices.length && edit.many}
    <div class="max-h-44 space-y-0.5 overflow-auto rounded-md border p-2" style="border-color: var(--line)">
      {#each choices as one (one.code)}
        <label class="block">
          <input
            type="checkbox"
            checked={lines(edit.text).includes(one.code)}
            onchange={(event) => toggle(one.code, event.currentTarget.checked)}
          />
          {one.label || one.code}
        </label>
      {/each}
    </div>
  {:else if edit.many}
    <label class="block">
      <span class="label">Values, one a line; can be pasted from a sheet</span>
      <textarea class="field mono" name="value" rows="4" bind:value={edit.text}></textarea>
    </label>
  {:else if edit.kind === 'choice' && choices.length}
    <label class="block">
      <span class="label">Value</span>
      <select
        class="field"
        name="value"
        value={edit.text}
        onchange={(event) => (edit.text = event.currentTarget.value)}
      >
        {#if !edit.required}<option value="">(none)</option>{/if}
        {#if edit.text && !choices.some((one) => one.code === edit.text)}<option value={edit.text}
            >{edit.text}</option
          >{/if}
        {#each choices as one (one.code)}<option value={one.code}>{one.label || one.code}</option>{/each}
      </select>
    </label>
  {:else if edit.kind === 'yes/no'}
    <label class="block">
      <span class="label">Value</span>
      <select class="field" name="value" bind:value={edit.text}>
        {#if !edit.required}<option value="">(left out)</option>{/if}
        <option value="true">yes</option><option value="false">no</option>
      </select>
    </label>
  {:else}
    <label class="block">
      <span class="label">Value</span>
      <input class="field" class:mono={!dated} name="value" type={kind.typed_as} bind:value={edit.text} />
    </label>
  {/if}

  {#if edit.kind === 'choice'}<ChoicesField bind:edit {brief} open={parameter.kind !== 'choice'} />{/if}

  {#if edit.many}
    <div class="grid grid-cols-[1fr_90px] gap-2">
      <label>
        <span class="label">A list is sent</span>
        <select class="field" name="send" bind:value={edit.send}>
          <option value="joined">joined by a separator</option>
          <option value="repeated">once for each value</option>
          <option value="json">as a JSON list</option>
        </select>
      </label>
      {#if edit.send === 'joined'}
        <label
          ><span class="label">Separator</span><input class="field mono" bind:value={edit.separator} /></label
        >
      {/if}
    </div>
  {/if}

  {#if dated && (told || sent)}
    <p class="seen">
      {#if told}{edit.moves ? 'Now that is' : 'That is'} <strong>{told}</strong>{/if}{#if sent}, sent as <code
          >{sent}</code
        >{/if}.
    </p>
  {/if}

  <details>
    <summary class="plain cursor-pointer text-[13px]" style="color: var(--link)"
      >Label, hint and how it is sent</summary
    >
    <div class="mt-2 space-y-2">
      <div class="grid grid-cols-2 gap-2">
        <label
          ><span class="label">Label</span><input
            class="field"
            name="label"
            bind:value={edit.label}
            placeholder={edit.name}
          /></label
        >
        <label><span class="label">Hint</span><input class="field" bind:value={edit.hint} /></label>
      </div>
      {#if dated}
        <div class="grid grid-cols-2 gap-2">
          <label>
            <span class="label">Written</span>
            <select class="field" name="format" bind:value={edit.format}>
              {#each registry().date_formats as one (one.value)}<option value={one.value}>{one.label}</option
                >{/each}<option value="pattern">by a pattern</option>
            </select>
          </label>
          <ChoiceFields fields={kind.fields} values={edit.own} prefix="" onchange={setOwn} />
        </div>
        {#if edit.format === 'pattern'}
          <label class="block">
            <span class="label">Pattern: %Y year, %m month, %d day, %H hour, %M minute</span>
            <input class="field mono" name="pattern" bind:value={edit.pattern} />
          </label>
        {/if}
        <p class="muted text-[12.5px]">
          In a path its parts can stand alone: <code
            >{`{${edit.name}.year}/{${edit.name}.month}${edit.kind === 'month' ? '' : `/{${edit.name}.day}`}`}</code
          >
        </p>
      {/if}
      {#if !dated && kind.fields.length}
        <div class="grid grid-cols-2 gap-2">
          <ChoiceFields fields={kind.fields} values={edit.own} prefix="" onchange={setOwn} />
        </div>
      {/if}
      <label class="block"><input type="checkbox" bind:checked={edit.required} /> must have a value</label>
      <label class="block"
        ><input type="checkbox" name="ask" bind:checked={edit.ask} /> ask for it at each refresh by hand</label
      >
    </div>
  </details>

  <fieldset class="text-[13px]">
    <legend class="label">The value holds</legend>
    <label class="block"
      ><input
        type="radio"
        name="holds"
        value="here"
        disabled={everywhere}
        checked={!everywhere && holds === 'here'}
        onchange={() => (holds = 'here')}
      />
      for calls made here, until you set it back; a scheduled refresh uses {usual}</label
    >
    <label class="block"
      ><input
        type="radio"
        name="holds"
        value="all"
        checked={everywhere || holds === 'all'}
        onchange={() => (holds = 'all')}
      /> for every refresh, by hand and on schedule</label
    >
  </fieldset>

  <div class="foot flex flex-wrap gap-2">
    <button class="press small main">Show the table</button>
    <button type="button" class="press small" onclick={onclose}>Done</button>
    {#if given !== undefined}
      <button
        type="button"
        class="press small"
        onclick={() => {
          settled = true;
          onuse(undefined);
          onclose();
        }}>Back to {usual}</button
      >
    {/if}
    {#if !used}<button
        type="button"
        class="press small"
        onclick={() => {
          settled = true;
          ondrop();
        }}>Remove, it is not used</button
      >{/if}
  </div>
</form>
