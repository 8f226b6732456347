<!-- Says that the table in sight is that of another date, and leads to those beside it. -->
<script lang="ts">
  import ChevronLeft from '@lucide/svelte/icons/chevron-left';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import { dated } from '../../domain/words/format';
  import { STATE_MEANS, STATE_SIGNS } from '../../domain/words/proof';
  import type { QueryStore } from '../queryStore.svelte';

  interface Props {
    work: QueryStore;
  }
  let { work }: Props = $props();
  const dates = $derived(work.dates);
</script>

{#if dates.at}
  {@const at = dates.at}
  <div class="band" role="status">
    <button
      class="step"
      aria-label="The date before"
      title="The date before"
      disabled={dates.index <= 0}
      onclick={() => void dates.step(-1)}><ChevronLeft size={15} /></button
    >
    <button class="step" aria-label="The date after" title="The date after" onclick={() => void dates.step(1)}
      ><ChevronRight size={15} /></button
    >
    <p class="min-w-0 flex-1 truncate" title={at.note}>
      As of <strong>{dated(at.taken)}</strong>{#if at.name}, <strong>“{at.name}”</strong>{/if}
      · <span title="{STATE_MEANS[at.state]} {at.evidence}">{STATE_SIGNS[at.state]} {at.state}</span>
      <span class="muted">· read-only{at.note ? ` · ${at.note}` : ''}</span>
    </p>
    {#if work.draft?.work_out.length || dates.readThen}
      <label title="Which work-out lines are done to this date"
        ><span class="muted">with</span>
        <select
          name="read-as"
          value={dates.readThen ? 'then' : 'today'}
          onchange={(event) => void dates.readAsThen(event.currentTarget.value === 'then')}
        >
          <option value="today">today’s lines</option>
          <option value="then">its lines of then</option>
        </select></label
      >
    {/if}
    <a class="press small" href="#/query/{work.id}/compare?then={encodeURIComponent(dates.address)}"
      >What changed since</a
    >
    <button class="press small main" onclick={dates.seeNewest}>See the newest</button>
  </div>
{/if}

<style>
  .band {
    display: flex;
    align-items: center;
    gap: 6px;
    padding: 5px 12px;
    border-left: 4px solid var(--damson);
    background: var(--damson-wash);
    font-size: 13.5px;
  }
  .step {
    padding: 2px;
    border-radius: 5px;
    color: var(--damson);
    cursor: pointer;
  }
  .step:hover:not(:disabled) {
    background: var(--paper);
  }
  .step:disabled {
    opacity: 0.4;
  }
  select {
    height: 24px;
    padding: 0 4px;
    border: 1px solid var(--line);
    border-radius: 6px;
    background: var(--paper);
    font-weight: 600;
  }
  @media (max-width: 700px) {
    .band {
      flex-wrap: wrap;
    }
  }
</style>
