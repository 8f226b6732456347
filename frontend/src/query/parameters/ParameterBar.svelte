<!-- The parameters, across the top: what each is for the next call, and its default. -->
<script lang="ts">
  import { sameJson } from '../../api/json';
  import type { Brief, Choice, Given, Parameter, Values } from '../../api/client';
  import { day } from '../../domain/words/format';
  import { defaultWords, givenWords, iterationNames } from '../../domain/words/labels';
  import Popover from '../../ui/Popover.svelte';
  import ParameterForm from './ParameterForm.svelte';

  interface Props {
    brief: Brief;
    /** Values for the next call that differ from the defaults. */
    given: Values;
    /** What each default is today. */
    today: Values;
    /** The choices that are read from other tables. */
    choices: Record<string, Choice[]>;
    queryId: number;
    ongiven: (given: Values) => void;
    onchange: (brief: Brief) => void;
    /** Make a call, to see the table of the values. */
    onask: () => void;
  }
  let { brief, given, today, choices, queryId, ongiven, onchange, onask }: Props = $props();

  const byIterations = $derived(new Set(iterationNames(brief)));

  function use(parameter: Parameter, value: Given | undefined): void {
    const rest = { ...given };
    delete rest[parameter.name];
    ongiven(value === undefined ? rest : { ...rest, [parameter.name]: value });
  }

  /** Its definition, and with it its default, hold for everybody. */
  function define(parameter: Parameter, built: Parameter): void {
    if (!sameJson(built.default, parameter.default)) use(parameter, undefined);
    onchange({
      ...brief,
      parameters: brief.parameters.map((one) => (one.name === parameter.name ? built : one)),
    });
  }

  function drop(parameter: Parameter): void {
    onchange({ ...brief, parameters: brief.parameters.filter((one) => one.name !== parameter.name) });
  }

  interface Shown {
    words: string;
    /** The day that a moving date is now. */
    value: string;
    /** What it is when nobody gives a value. */
    usual: string;
  }

  function shown(parameter: Parameter): Shown {
    const offered = choices[parameter.name];
    const usually = defaultWords(parameter, offered);
    const value = today[parameter.name];
    const fallback = parameter.default;
    const moves = typeof fallback === 'object' && fallback !== null && !Array.isArray(fallback);
    const plain = typeof value === 'string' ? value : '';
    const told = parameter.kind === 'date' && plain ? day(plain) : plain.replace('T', ' ').slice(0, 16);
    const usual = parameter.kind === 'date' && !moves && plain ? told : usually;
    if (byIterations.has(parameter.name)) return { words: 'for each', value: '', usual };
    const own = given[parameter.name];
    if (own !== undefined && own !== null) {
      if (parameter.kind === 'date' && typeof own === 'string' && own)
        return { words: day(own), value: '', usual };
      return { words: givenWords(parameter, own, offered), value: '', usual };
    }
    return { words: usual, value: moves ? told : '', usual };
  }
</script>

<div class="flex min-w-0 flex-wrap gap-2">
  {#each brief.parameters as parameter (parameter.name)}
    {@const said = shown(parameter)}
    <Popover label="Parameter {parameter.name}" look="chip" width={400}>
      {#snippet trigger()}
        <span class="muted name">{parameter.label || parameter.name}</span>
        <span class="words font-medium" title={said.words} class:given={parameter.name in given}
          >{said.words}</span
        >
        {#if said.value}<span class="muted">{said.value}</span>{/if}
        {#if parameter.name in given}<span class="muted">here only</span>{/if}
      {/snippet}
      {#snippet children(close)}
        {#if parameter.hint}<p class="muted mb-2">{parameter.hint}</p>{/if}
        <ParameterForm
          {brief}
          {parameter}
          given={given[parameter.name]}
          today={today[parameter.name]}
          offered={choices[parameter.name]}
          {queryId}
          usual={said.usual}
          onuse={(value) => use(parameter, value)}
          ondefault={(built) => define(parameter, built)}
          onclose={close}
          {onask}
          ondrop={() => {
            drop(parameter);
            close();
          }}
        />
      {/snippet}
    </Popover>
  {/each}
</div>

<style>
  :global(.chip) {
    display: inline-flex;
    gap: 7px;
    align-items: baseline;
    height: 29px;
    line-height: 27px;
    padding: 0 10px;
    border: 1px solid var(--line);
    border-radius: 7px;
    background: var(--paper);
    font-size: 13px;
    white-space: nowrap;
    cursor: pointer;
    max-width: 320px;
    overflow: hidden;
  }
  :global(.chip:hover),
  :global(.chip[data-state='open']) {
    border-color: var(--damson-edge);
    background: var(--damson-wash);
  }
  .name {
    flex: none;
    min-width: 0;
    max-width: 140px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .words {
    flex: 0 1 auto;
    min-width: 40px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .given {
    color: var(--damson);
    text-decoration: underline;
    text-underline-offset: 3px;
  }
</style>
