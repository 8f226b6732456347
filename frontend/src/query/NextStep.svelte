<!-- The way to a first snapshot: which of its steps is next. It goes when there is one. -->
<script lang="ts">
  import { STEPS, type Step } from './steps';

  interface Props {
    step: Step;
  }
  let { step }: Props = $props();
  const at = $derived(STEPS.findIndex((one) => one.step === step));
</script>

<section class="steps" aria-label="The way to the first snapshot">
  <ol>
    {#each STEPS as one, number (one.step)}
      <li class:done={number < at} aria-current={number === at ? 'step' : undefined}>
        {number < at ? '✓ ' : ''}{one.name}
      </li>
    {/each}
  </ol>
  <p>{STEPS[at]?.words}</p>
</section>

<style>
  .steps {
    margin: 4px 0 8px;
    padding: 7px 10px;
    border: 1px solid var(--line);
    border-radius: 8px;
    background: var(--paper);
    font-size: 13px;
    line-height: 18px;
  }
  ol {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
    margin-bottom: 3px;
    color: var(--muted);
  }
  li[aria-current] {
    color: var(--damson);
    font-weight: 700;
    box-shadow: 0 2px 0 var(--damson);
  }
  .done {
    color: var(--ink);
  }
</style>
