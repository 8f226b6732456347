<!-- Statuses that a service wants retried in another way than usual. -->
<script lang="ts">
  import type { Again } from '../domain/limits';

  interface Props {
    again: Again[];
  }
  let { again = $bindable() }: Props = $props();
</script>

<div class="mt-2">
  <span class="label">Statuses that are retried in another way than usual</span>
  {#each again as rule, at (at)}
    <div class="mt-1 flex flex-wrap items-center gap-2">
      <label class="flex items-center gap-1"
        >status <input
          class="field small"
          type="number"
          min="400"
          max="599"
          aria-label="Status of rule {at + 1}"
          bind:value={rule.status}
          required
        /></label
      >
      <label class="flex items-center gap-1"
        ><input
          class="field small"
          type="number"
          min="1"
          max="20"
          aria-label="Attempts of rule {at + 1}"
          bind:value={rule.tries}
          required
        /> attempts</label
      >
      <label class="flex items-center gap-1"
        >every <input
          class="field small"
          type="number"
          min="0"
          max="3600"
          step="0.5"
          placeholder="growing"
          aria-label="Pause of rule {at + 1}, in seconds"
          value={rule.pause}
          onchange={(event) =>
            (rule.pause = event.currentTarget.value === '' ? null : Number(event.currentTarget.value))}
        /> s</label
      >
      <button type="button" class="plain" onclick={() => (again = again.filter((_, index) => index !== at))}
        >remove</button
      >
    </div>
  {/each}
  <button
    type="button"
    class="plain mt-1"
    onclick={() => (again = [...again, { status: 500, tries: 3, pause: 10 }])}
    >{again.length ? 'add another status' : 'add a status'}</button
  >
</div>

<style>
  .small {
    width: 88px;
  }
</style>
