<!-- The parameters, across the top: what each is for the next call, and its default. -->
<script lang="ts">
  import type { Brief, Parameter, Values } from '../lib/api/client';
  import { day } from '../lib/format';
  import { choiceLabel, defaultWords } from '../lib/words';
  import Sheet from '../parts/Sheet.svelte';

  interface Props {
    brief: Brief;
    /** Values for the next call that differ from the defaults. */
    given: Values;
    /** What each default is today. */
    today: Values;
    ongiven: (given: Values) => void;
    onchange: (brief: Brief) => void;
  }
  let { brief, given, today, ongiven, onchange }: Props = $props();

  let text = $state('');
  let dateKind = $state<'fixed' | 'relative'>('fixed');
  let anchor = $state<'today' | 'start of week' | 'start of month' | 'start of year'>('today');
  let amount = $state(0);
  let unit = $state<'D' | 'W' | 'M'>('D');
  let direction = $state<'-' | '+'>('-');
  let kind = $state<Parameter['kind']>('text');
  let choices = $state('');

  function begin(parameter: Parameter): void {
    const value = parameter.default;
    kind = parameter.kind;
    dateKind = 'fixed';
    text = given[parameter.name] ?? (typeof value === 'string' ? value : (today[parameter.name] ?? ''));
    if (value && typeof value === 'object' && given[parameter.name] === undefined) {
      const match = /^([+-]?)P(\d+)([DWM])$/.exec(value.offset);
      dateKind = 'relative';
      anchor = value.anchor;
      amount = Number(match?.[2] ?? 0);
      unit = (match?.[3] as 'D' | undefined) ?? 'D';
      direction = match?.[1] === '-' ? '-' : '+';
    }
    choices =
      parameter.kind === 'choice'
        ? parameter.choices.map((one) => (one.label ? `${one.code}\t${one.label}` : one.code)).join('\n')
        : '';
  }

  const offset = $derived(`${direction === '-' && amount ? '-' : ''}P${amount || 0}${unit}`);

  function built(parameter: Parameter): Parameter {
    const { name, label, hint, required } = parameter;
    const common = { name, label, hint, required };
    if (kind === 'date')
      return { ...common, kind, default: dateKind === 'relative' ? { anchor, offset } : text || null };
    if (kind === 'choice') {
      const listed = choices
        .split('\n')
        .map((line) => line.split('\t'))
        .filter(([code]) => code?.trim())
        .map(([code, words]) => ({ code: (code ?? '').trim(), label: (words ?? '').trim() }));
      if (text && !listed.some((one) => one.code === text)) listed.push({ code: text, label: '' });
      return { ...common, kind, choices: listed, default: text || null };
    }
    return { ...common, kind: 'text', default: text || null };
  }

  function useNow(parameter: Parameter, close: () => void): void {
    ongiven({ ...given, [parameter.name]: text });
    close();
  }

  function makeDefault(parameter: Parameter, close: () => void): void {
    const rest = { ...given };
    delete rest[parameter.name];
    ongiven(rest);
    onchange({
      ...brief,
      parameters: brief.parameters.map((one) => (one.name === parameter.name ? built(parameter) : one)),
    });
    close();
  }

  function drop(parameter: Parameter, close: () => void): void {
    onchange({ ...brief, parameters: brief.parameters.filter((one) => one.name !== parameter.name) });
    close();
  }

  function shown(parameter: Parameter): { words: string; value: string } {
    const own = given[parameter.name];
    if (own !== undefined && own !== null) {
      return {
        words: parameter.kind === 'date' && own ? day(own) : choiceLabel(parameter, own) || '(empty)',
        value: '',
      };
    }
    const words = defaultWords(parameter);
    const value = today[parameter.name];
    const isRelative = typeof parameter.default === 'object' && parameter.default !== null;
    if (parameter.kind === 'date' && !isRelative && value) return { words: day(value), value: '' };
    return { words, value: isRelative && value ? day(value) : '' };
  }

  const used = $derived(JSON.stringify([brief.ask, brief.look_up]));
</script>

<div class="flex min-w-0 flex-wrap gap-2">
  {#each brief.parameters as parameter (parameter.name)}
    {@const said = shown(parameter)}
    <Sheet label="Parameter {parameter.name}" look="chip" onopen={() => begin(parameter)} width={350}>
      {#snippet trigger()}
        <span class="muted">{parameter.label || parameter.name}</span>
        <span class="font-medium" class:given={parameter.name in given}>{said.words}</span>
        {#if said.value}<span class="muted">{said.value}</span>{/if}
      {/snippet}
      {#snippet children(close)}
        <div class="space-y-3">
          <label class="block">
            <span class="label">Kind</span>
            <select class="field" bind:value={kind}>
              <option value="text">text</option>
              <option value="choice">choice of codes</option>
              <option value="date">date</option>
            </select>
          </label>
          {#if kind === 'choice' && parameter.kind === 'choice'}
            <label class="block">
              <span class="label">Value</span>
              <select class="field" name="value" bind:value={text}>
                {#each parameter.choices as one (one.code)}<option value={one.code}
                    >{one.label || one.code}</option
                  >{/each}
              </select>
            </label>
          {:else if kind === 'date'}
            <div class="flex gap-4">
              <label><input type="radio" value="fixed" bind:group={dateKind} /> one date</label>
              <label
                ><input type="radio" value="relative" bind:group={dateKind} /> moves with the calendar</label
              >
            </div>
            {#if dateKind === 'fixed'}
              <input class="field" type="date" aria-label="Date" bind:value={text} />
            {:else}
              <div class="grid grid-cols-[70px_90px_1fr] gap-2">
                <input
                  class="field"
                  type="number"
                  min="0"
                  max="999"
                  aria-label="How many"
                  bind:value={amount}
                />
                <select class="field" aria-label="Unit" bind:value={unit}>
                  <option value="D">days</option><option value="W">weeks</option><option value="M"
                    >months</option
                  >
                </select>
                <select class="field" aria-label="Direction" bind:value={direction}>
                  <option value="-">before</option><option value="+">after</option>
                </select>
              </div>
              <select class="field" aria-label="From when" bind:value={anchor}>
                <option>today</option><option>start of week</option><option>start of month</option>
                <option>start of year</option>
              </select>
            {/if}
          {:else}
            <label class="block"
              ><span class="label">Value</span><input class="field" name="value" bind:value={text} /></label
            >
          {/if}
          {#if kind === 'choice'}
            <label class="block">
              <span class="label">Choices, one a line: code, tab, label. Can be pasted from a sheet.</span>
              <textarea class="field mono" rows="4" bind:value={choices}></textarea>
            </label>
          {/if}
          <div class="flex flex-wrap gap-2">
            {#if !(kind === 'date' && dateKind === 'relative') && kind === parameter.kind}
              <button class="press small" onclick={() => useNow(parameter, close)}>Use for now</button>
            {/if}
            <button class="press small main" onclick={() => makeDefault(parameter, close)}
              >Make it the default</button
            >
            {#if !used.includes(`{${parameter.name}}`)}
              <button class="press small" onclick={() => drop(parameter, close)}
                >Remove, it is not used</button
              >
            {/if}
          </div>
        </div>
      {/snippet}
    </Sheet>
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
  .given {
    color: var(--damson);
    text-decoration: underline;
    text-underline-offset: 3px;
  }
</style>
