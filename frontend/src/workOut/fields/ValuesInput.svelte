<!-- Several values of a column: each is taken with Enter or a comma; what is being typed counts as well. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { sameJson } from '../../api/json';
  import Taken from '../../ui/Taken.svelte';
  import { pastedValues, takeIn, whole } from '../valueList';
  import ValueInput from './ValueInput.svelte';

  interface Props {
    column: string;
    values: unknown[];
    label: string;
    onchange: (values: unknown[]) => void;
  }
  let { column, values, label, onchange }: Props = $props();
  let known = $state.raw<string[]>([]);
  let typing = $state('');
  let box = $state<HTMLElement>();
  // What is typed stays in sight.
  $effect(() => {
    void values.length;
    if (box?.contains(document.activeElement)) box.scrollTop = box.scrollHeight;
  });
  const own = $derived(whole(typing) ? values.slice(0, -1) : values);

  // What was typed one after the other, and the values before it: what the column has may be known only later.
  let before: unknown[] = [];
  let text = '';
  $effect(() => {
    if (known.length && untrack(() => text)) untrack(() => take(text));
  });

  function give(taken: unknown[], rest: string): void {
    [before, text] = [taken, rest];
    show(taken, rest);
  }

  function show(taken: unknown[], rest: string): void {
    typing = rest;
    const last = whole(rest);
    const next = last ? [...taken, last] : taken;
    if (!sameJson(next, values)) onchange(next);
  }

  function take(all: string): void {
    text = all;
    const found = takeIn(all, known);
    show([...before, ...found.values], found.rest);
  }

  function typed(written: string): void {
    if (!text) before = own;
    take(text.slice(0, text.length - typing.length) + written);
  }

  function pressed(event: KeyboardEvent): void {
    if (event.key === 'Enter' && whole(typing)) {
      event.preventDefault();
      give([...own, whole(typing)], '');
    } else if (event.key === 'Backspace' && !typing && own.length) give(own.slice(0, -1), '');
  }

  function pasted(event: ClipboardEvent): void {
    const cells = pastedValues(event.clipboardData?.getData('text') ?? '');
    if (!cells) return;
    event.preventDefault();
    give([...own, ...cells], typing);
  }
</script>

<div class="values" bind:this={box}>
  {#each own as one, at (at)}
    <Taken
      text={String(one ?? '')}
      onremove={() =>
        give(
          own.filter((_, index) => index !== at),
          typing,
        )}
    />
  {/each}
  <ValueInput
    {column}
    {label}
    placeholder={own.length ? 'one more' : 'one, two'}
    value={typing}
    bind:known
    onchange={typed}
    onkeydown={pressed}
    onblur={() => whole(typing) && give([...own, whole(typing)], '')}
    onpaste={pasted}
  />
</div>

<style>
  .values {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    max-height: 118px;
    overflow: auto;
  }
  .values :global(.field) {
    flex: 1 1 84px;
    min-width: 84px;
  }
</style>
