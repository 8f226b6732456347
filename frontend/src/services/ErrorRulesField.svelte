<!-- A service's own rules for errors inside answers whose status says that all is well. -->
<script lang="ts">
  import type { Fault } from '../domain/limits';

  interface Props {
    error_rules: Fault[];
  }
  let { error_rules = $bindable() }: Props = $props();
</script>

<div>
  <span class="label">What it means that one of these places in an answer holds something</span>
  {#each error_rules as fault, at (at)}
    <div class="mt-1 flex items-center gap-2">
      <input
        class="field mono"
        aria-label="Place of error {at + 1}"
        placeholder="$.errors"
        bind:value={fault.at}
        required
      />
      <select
        class="field w-36"
        aria-label="Meaning of error {at + 1}"
        value={fault.warns ? 'warning' : 'error'}
        onchange={(event) => (fault.warns = event.currentTarget.value === 'warning')}
      >
        <option value="error">an error</option>
        <option value="warning">a warning; the rows stay</option>
      </select>
      <input
        class="field mono"
        aria-label="Message of error {at + 1}"
        placeholder="message: found out"
        value={fault.words ?? ''}
        onchange={(event) => (fault.words = event.currentTarget.value.trim() || null)}
      />
      <button
        type="button"
        class="plain"
        onclick={() => (error_rules = error_rules.filter((_, index) => index !== at))}>remove</button
      >
    </div>
  {/each}
  <button
    type="button"
    class="plain mt-1"
    onclick={() => (error_rules = [...error_rules, { at: '', words: null, warns: false }])}
    >{error_rules.length ? 'add another rule' : 'add a rule'}</button
  >
</div>
